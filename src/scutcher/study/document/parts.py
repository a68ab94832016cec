"""What a state is made of: sources, data sets, which samples a model uses, what it reached, models."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import field, replace
from types import MappingProxyType

from scutcher.core.arrays import Floats, Integers
from scutcher.core.data.layouts import Layout, NoLayout
from scutcher.core.data.table import Table
from scutcher.core.frozen import frozen
from scutcher.core.recipes.block_settings import BlocksSettings
from scutcher.core.recipes.recipe import Recipe

WATCHED = "watched: shown on the model, no part of it"
"""The reason under which a table names the samples that a model watches."""


@frozen
class Source:
    """Where the data came from, and which role each column was given: so that it can be read again.

    Attributes
    ----------
    paths : tuple of str
        Absolute; empty where the data did not come from files.
    roles : tuple of (column, role)
        Roles that a person gave; the others were guessed.
    sheet : str
        Of a workbook, or the matrix of a file; "" for the first that suits.
    resampled : bool
        Whether different axes were brought onto their common channels.
    reading : tuple of (key, text)
        How the cells are laid out, as far as it is known: see `files.layout.reading`.
    mends : tuple of str
        What was mended in reading, where it would have been refused: keys of `MENDS`.
    contents : tuple of str
        SHA-256 of each file when it was read, in the order of the paths; empty where it was not taken.
    """

    paths: tuple[str, ...] = ()
    roles: tuple[tuple[str, str], ...] = ()
    sheet: str = ""
    resampled: bool = False
    reading: tuple[tuple[str, str], ...] = ()
    mends: tuple[str, ...] = ()
    contents: tuple[str, ...] = ()


NOWHERE = Source()

BLOCKS = BlocksSettings()


@frozen(eq=False)
class DataSet:
    """A table as it was brought in, with where it came from.

    Attributes
    ----------
    id : str
        Never changes and is never used again in the study.
    name : str
    table : Table
        Nothing in it is set aside or left out: that belongs to the models.
    source : Source
    layout : Layout
    """

    id: str
    name: str
    table: Table
    source: Source = NOWHERE
    layout: Layout = field(default_factory=NoLayout)


@frozen(eq=False)
class SampleUse:
    """Which samples and variables of its data set a model uses; the others are trained on.

    Attributes
    ----------
    set_aside : mapping of row → reason
    watched : tuple of int
        Rows that are shown on the model and make no part of it, rising.
    left_out : mapping of column → reason
    """

    set_aside: Mapping[int, str] = field(default_factory=dict)
    watched: tuple[int, ...] = ()
    left_out: Mapping[int, str] = field(default_factory=dict)
    _seen: list[tuple[Table, Table]] = field(default_factory=list, repr=False)

    def __post_init__(self) -> None:
        object.__setattr__(self, "set_aside", MappingProxyType(dict(self.set_aside)))
        object.__setattr__(self, "left_out", MappingProxyType(dict(self.left_out)))

    def of(self, table: Table) -> Table:
        """The table as the model uses it; the same object for the same table."""
        if not self._seen or self._seen[0][0] is not table:
            watched = {row: WATCHED for row in self.watched if row not in self.set_aside}
            aside = dict(sorted({**self.set_aside, **watched}.items()))
            used = replace(table, set_aside=aside, left_out=self.left_out)
            self._seen[:] = [(table, used)]
        return self._seen[0][1]

    def same(self, other: SampleUse) -> bool:
        """Whether both use the same samples and variables, for the same reasons."""
        return (self.set_aside, self.watched, self.left_out) == (
            other.set_aside,
            other.watched,
            other.left_out,
        )


@frozen(eq=False)
class Reached:
    """What a model had reached when it was put by.

    Attributes
    ----------
    figures : tuple of (name, value)
        Samples, variables, R², Q² and so on.
    scores : (n, 2) float array
        Its score plane, for a small picture; one column where only one component was kept.
    codes : (n,) int array
        The class of each of these samples then, −1 for none.
    """

    figures: tuple[tuple[str, float], ...]
    scores: Floats
    codes: Integers

    def figure(self, key: str) -> float | None:
        """One of its figures."""
        return dict(self.figures).get(key)


@frozen(eq=False)
class Model:
    """What a model is made from; what comes of it is computed.

    Attributes
    ----------
    id : str
        Never changes and is never used again in the study.
    name : str
    dataset : str
        The id of the data set it is made of.
    kind : str
        A key of `core.models.all_kinds`.
    recipe : Recipe
        Treatments, scaling and settings.
    use : SampleUse
        Which samples and variables.
    reached : Reached or None
        Of a model that was put by.
    """

    id: str
    name: str
    dataset: str
    kind: str = "pca"
    recipe: Recipe = field(default_factory=Recipe)
    use: SampleUse = field(default_factory=SampleUse)
    reached: Reached | None = None

    def figure(self, key: str) -> float | None:
        """One of the figures it had reached when it was put by."""
        return None if self.reached is None else self.reached.figure(key)

    def same_inputs(self, other: Model) -> bool:
        """Whether both are made from the same."""
        return (self.dataset, self.kind, self.recipe) == (
            other.dataset,
            other.kind,
            other.recipe,
        ) and self.use.same(other.use)


TOGETHER = "blocks"
"""The kind of a model that is made of several tables."""


@frozen(eq=False)
class Together:
    """Several tables on the same samples, as they were compared when the comparison was put by.

    Attributes
    ----------
    model : Model
        Its id, its name and what it had reached; of the kind `TOGETHER`, and of the first table's data set.
    settings : BlocksSettings
    members : tuple of Model
        Data set, treatments and samples of each table.
    """

    model: Model
    settings: BlocksSettings
    members: tuple[Model, ...]
