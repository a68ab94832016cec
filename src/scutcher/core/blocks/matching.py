"""Tables brought onto the same samples: matched by a key, a row of each, treated, centred and scaled."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from scutcher.core.arrays import Floats, Integers
from scutcher.core.blocks.repeats import one_of_each
from scutcher.core.computed_once import computed_once
from scutcher.core.data.table import Table
from scutcher.core.errors import ModelError
from scutcher.core.frozen import frozen
from scutcher.core.recipes.block_settings import Part, Repeats
from scutcher.core.recipes.chain import apply_chain, learn_chain
from scutcher.core.recipes.recipe import ScaleSettings, Step
from scutcher.core.scaling.scaler import Scaler, fit_scaler
from scutcher.core.words import count_of, first_of

FEWEST = 8
"""Samples that all blocks have in common at least."""

REPEATS: dict[Repeats, str] = {
    "mean": "a sample is the mean of its rows",
    "median": "a sample is the median of its rows",
    "first": "a sample is the first of its rows",
}


@frozen(eq=False)
class BlockSource:
    """A table that becomes a block.

    Attributes
    ----------
    name : str
    table : Table
        As brought in, without gaps; the rows and columns that are used.
    keys : tuple of n str
        Which sample each row is of.
    steps : tuple of Step
        Those that are on.
    scaling : ScaleSettings
    """

    name: str
    table: Table
    keys: tuple[str, ...]
    steps: tuple[Step, ...]
    scaling: ScaleSettings

    @property
    def ordered(self) -> bool:
        """Whether its variables have an axis."""
        return self.table.axis.ordered


@frozen(eq=False)
class Matched:
    """Blocks on common samples.

    Attributes
    ----------
    sources : tuple of BlockSource
    ids : tuple of str
        Samples that all blocks have, in the order of the first.
    rows : tuple (blocks) of tuples (samples) of (m,) int arrays
        Rows of each source's table for each sample.
    only : dict of sample → names of the blocks that have it
        Samples that some blocks lack.
    repeats : {"mean", "median", "first"}
        What stands for the rows of one sample.
    """

    sources: tuple[BlockSource, ...]
    ids: tuple[str, ...]
    rows: tuple[tuple[Integers, ...], ...]
    only: dict[str, tuple[str, ...]]
    repeats: Repeats = "mean"

    def treated(self, train: Integers) -> list[Treated]:
        """Each block as some of the samples teach it."""
        both = zip(self.sources, self.rows, strict=True)
        return [_treated(source, rows, train, self.repeats) for source, rows in both]

    def refit(self, train: Integers, left: Integers) -> tuple[list[Floats], list[Floats]]:
        """Z of training and of left-out samples, by what the training samples teach."""
        taught = self.treated(train)
        others = [one.z_of(rows, left) for one, rows in zip(taught, self.rows, strict=True)]
        return [one.z for one in taught], others

    @computed_once
    def has_repeats(self) -> bool:
        """Whether a sample has several rows in a table."""
        return any(len(own) > 1 for rows in self.rows for own in rows)

    def said(self) -> str:
        """How many samples are common and what is missing, in words."""
        words = f"{count_of(len(self.ids))} in all {len(self.sources)} tables"
        if self.only:
            words += f"; {len(self.only)} in some only ({first_of(list(self.only), 3)})"
        return f"{words}; {REPEATS[self.repeats]}" if self.has_repeats else words


@frozen(eq=False)
class Treated:
    """A block as treated: what was learned, and its Z.

    Attributes
    ----------
    source : BlockSource
    table : Table
        Treated, a row for each sample.
    learned : tuple
        Of each step.
    scaler : Scaler
    z : (n, p) float array
    repeats : {"mean", "median", "first"}
    """

    source: BlockSource
    table: Table
    learned: tuple[object, ...]
    scaler: Scaler
    z: Floats
    repeats: Repeats = "mean"

    def z_of(self, rows: Sequence[Integers], samples: Integers) -> Floats:
        """Z of other samples of the same source, (m, p)."""
        own = [rows[place] for place in samples.tolist()]
        if not own:
            return np.zeros((0, self.z.shape[1]))
        part = self.source.table.take(np.concatenate(own))
        return self.z_of_table(part, [len(one) for one in own])

    def z_of_table(self, raw: Table, counts: Sequence[int] | None = None) -> Floats:
        """Z of the rows of a table on the source's variables; `counts` neighbours are one sample."""
        treated = apply_chain(raw, self.source.steps, self.learned)  # type: ignore[arg-type]
        values = treated.values if counts is None else one_of_each(treated.values, counts, self.repeats)
        found: Floats = (values - self.scaler.centre) * self.scaler.weight
        return found


def _treated(source: BlockSource, rows: Sequence[Integers], train: Integers, repeats: Repeats) -> Treated:
    own = [rows[place] for place in train.tolist()]
    table, learned = learn_chain(source.table.take(np.concatenate(own)), source.steps)
    firsts = np.concatenate([[0], np.cumsum([len(one) for one in own])[:-1]]).astype(np.intp)
    samples = table.take(firsts).with_values(one_of_each(table.values, [len(one) for one in own], repeats))
    scaler = fit_scaler(samples.values, source.scaling, samples.axis)
    z = (samples.values - scaler.centre) * scaler.weight
    return Treated(source, samples, learned, scaler, z, repeats)


def keys_of(table: Table, column: str = "") -> tuple[str, ...]:
    """Which sample each row is of: a class or replicate column; else replicate ids, else the ids.

    Raises
    ------
    ModelError
        There is no column of that name.
    """
    if column:
        for one in table.classes:
            if one.name == column:
                return tuple(one.values)
        if table.replicates is None and column not in ("id", "sample"):
            names = ", ".join(one.name for one in table.classes) or "none"
            raise ModelError(
                f"{table.name} has no column {column!r} to be matched by (its class columns: {names}).",
                "Name one that every table has, or give it the role of the id.",
            )
    return tuple(table.ids if table.replicates is None else table.replicates)


def match(sources: Sequence[BlockSource], repeats: Repeats = "mean") -> Matched:
    """The samples that all tables have.

    Raises
    ------
    ModelError
        Fewer than two or more than five tables, two of one name, fewer than eight common samples.
    """
    if not 2 <= len(sources) <= 5:
        raise ModelError(f"There are {count_of(len(sources), 'table')}.", "Two to five make blocks.")
    names = [source.name for source in sources]
    twice = [name for name in names if names.count(name) > 1]
    if twice:
        raise ModelError(f"Two tables are called {twice[0]}.", "Rename one of them.")
    places = [_places(source.keys) for source in sources]
    common = tuple(key for key in places[0] if all(key in other for other in places[1:]))
    everything = dict.fromkeys(key for place in places for key in place)
    only = {
        key: tuple(name for name, place in zip(names, places, strict=True) if key in place)
        for key in everything
        if key not in common
    }
    if len(common) < FEWEST:
        raise ModelError(
            f"{' and '.join(names)} have {count_of(len(common))} in common; {FEWEST} are needed.",
            "Choose the column by which they are matched.",
        )
    rows = tuple(tuple(place[key] for key in common) for place in places)
    return Matched(tuple(sources), common, rows, only, repeats)


def _places(keys: Sequence[str]) -> dict[str, Integers]:
    found: dict[str, list[int]] = {}
    for row, key in enumerate(keys):
        if key:
            found.setdefault(key, []).append(row)
    return {key: np.array(rows, dtype=np.intp) for key, rows in found.items()}


def cut(source: BlockSource, parts: Sequence[Part]) -> list[BlockSource]:
    """A table cut into blocks by channels or variables.

    Raises
    ------
    ModelError
        A part has no channels, or names a variable that is not there.
    """
    found = []
    axis = source.table.axis
    for part in parts:
        if part.variables:
            missing = [name for name in part.variables if name not in axis.labels]
            if missing:
                raise ModelError(f"{source.name} has no variable {missing[0]!r}.", "Name those that it has.")
            columns = np.array([axis.labels.index(name) for name in part.variables], dtype=np.intp)
        else:
            places = axis.places()
            low = -np.inf if part.first is None else part.first
            high = np.inf if part.last is None else part.last
            columns = np.flatnonzero((places >= min(low, high)) & (places <= max(low, high)))
        if not len(columns):
            raise ModelError(f"The part {part.name} of {source.name} has no channels.", "Widen it.")
        table = source.table.take(np.arange(source.table.shape[0]), columns)
        found.append(BlockSource(part.name, table, source.keys, source.steps, source.scaling))
    return found
