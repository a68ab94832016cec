"""Segments: which samples are left out together in a validation."""

from __future__ import annotations

import numpy as np

from scutcher.core.arrays import Integers
from scutcher.core.data.grid import grid_of, image_column, square_numbers
from scutcher.core.data.replicates import repeats, replicate_codes
from scutcher.core.data.table import Table
from scutcher.core.errors import RecipeError, TableError
from scutcher.core.frozen import frozen
from scutcher.core.recipes.recipe import ValidateSettings
from scutcher.core.treatments.support.reference_spectra import class_column_of

USUAL = 7

SQUARES = 6
"""Squares of a picture that a segment has, about: enough that each has some of everything."""


@frozen(eq=False)
class Segments:
    """Samples that are left out together.

    Attributes
    ----------
    parts : tuple (repeats) of tuples (segments) of (m,) int arrays
        Rows of the table, rising.
    groups : int
        Replicate ids, or samples where there are no replicates.
    column : str
        The class column, for the scheme "class".
    never : (u,) int array
        Rows that are in no segment: their class is not known.
    """

    parts: tuple[tuple[Integers, ...], ...]
    groups: int
    column: str
    never: Integers


def groups_of(table: Table) -> list[Integers]:
    """The rows of each replicate id, or of each sample, in order of first appearance."""
    replicates = table.replicates or ("",) * len(table.ids)
    return [np.array(rows, dtype=np.intp) for rows in repeats(replicates)]


def group_codes(table: Table) -> Integers:
    """The group of each sample: its replicates, or itself."""
    return np.arange(len(table.ids)) if table.replicates is None else replicate_codes(table.replicates)


def group_count(table: Table) -> int:
    """How many groups the samples make."""
    return len(table.ids) if table.replicates is None else int(group_codes(table).max(initial=-1)) + 1


def make_segments(table: Table, settings: ValidateSettings) -> Segments:
    """Deal the groups of samples out to segments.

    `blocks`: contiguous runs, as equal as possible, the longer first. `blinds`: group g to segment g mod s.
    `random`: a seeded permutation dealt out in turn, once for each repeat. `one-out`: a group each.
    `class`: the levels of a class column. `tiles`: squares of the picture that the samples are pixels of.

    Raises
    ------
    RecipeError
        More segments than groups, or fewer than two.
    TableError
        A replicate id in two classes; no class column.
    """
    groups = groups_of(table)
    if settings.scheme == "class":
        return _by_class(table, settings, groups)
    count = settings.segments or min(USUAL, len(groups))
    if settings.scheme == "one-out":
        count = len(groups)
    if count > len(groups) or count < 2:
        raise RecipeError(
            f"{count} segments were asked for; there are {len(groups)} groups of samples that stay together.",
            f"Choose 2 to {len(groups)}." if len(groups) >= 2 else "Validation needs at least 2 groups.",
        )
    rng = np.random.default_rng(settings.seed)
    if settings.scheme in ("tiles", "images"):
        return Segments(
            (_by_tiles(table, settings, count, groups, rng),), len(groups), "", np.empty(0, np.intp)
        )
    repeats = settings.repeats if settings.scheme == "random" else 1
    parts = tuple(_dealt(groups, _numbers(settings.scheme, len(groups), count, rng)) for _ in range(repeats))
    return Segments(parts, len(groups), "", np.empty(0, np.intp))


def _numbers(scheme: str, groups: int, count: int, rng: np.random.Generator) -> Integers:
    """The segment of each group."""
    if scheme == "blocks":
        lengths = [groups // count + (place < groups % count) for place in range(count)]
        return np.repeat(np.arange(count), lengths)
    numbers = np.arange(groups) % count
    if scheme == "random":
        dealt = np.empty(groups, dtype=np.intp)
        dealt[rng.permutation(groups)] = numbers
        return dealt
    return numbers


def _dealt(groups: list[Integers], numbers: Integers) -> tuple[Integers, ...]:
    """The rows of each segment."""
    return tuple(
        np.sort(np.concatenate([groups[g] for g in np.flatnonzero(numbers == segment)]))
        for segment in range(int(numbers.max()) + 1)
    )


def _by_class(table: Table, settings: ValidateSettings, groups: list[Integers]) -> Segments:
    column = class_column_of(table, settings.column or "")
    for rows in groups:
        levels = {column.values[row] for row in rows}
        if len(levels) > 1:
            assert table.replicates is not None
            raise TableError(
                f"The replicate {table.replicates[rows[0]]!r} is in two classes of {column.name}: "
                f"{' and '.join(sorted(level or 'none' for level in levels))}.",
                "Correct the class, or choose another scheme of segments.",
            )
    codes = column.codes()
    present = [code for code in range(len(column.levels)) if (codes == code).any()]
    if len(present) < 2:
        raise TableError(
            f"The class column {column.name} has {len(present)} classes; segments by class need two.",
            "Choose another column or another scheme.",
        )
    parts = tuple(np.flatnonzero(codes == code) for code in present)
    return Segments((parts,), len(groups), column.name, np.flatnonzero(codes < 0))


def _by_tiles(
    table: Table, settings: ValidateSettings, count: int, groups: list[Integers], rng: np.random.Generator
) -> tuple[Integers, ...]:
    """Groups go where their first pixel lies."""
    several = image_column(table) if settings.scheme == "images" else None
    if several is not None:
        dealt = (rng.permutation(len(several.levels)) % count)[several.codes()]
        numbers = dealt[[int(rows[0]) for rows in groups]]
        return _dealt(groups, np.unique(numbers, return_inverse=True)[1])
    found = None if settings.scheme == "images" else grid_of(table)
    if found is None:
        what = (
            "one image" if settings.scheme == "images" else "no picture: no two columns say where samples lie"
        )
        raise RecipeError(
            f"The scheme {settings.scheme!r} does not suit {table.name}, which is {what}.",
            "Choose one of: random, blinds, blocks, one-out, class, none.",
        )
    layout, cells = found
    square = square_numbers(layout, 1, count * SQUARES)
    dealt = (rng.permutation(int(square.max()) + 1) % count)[square][cells]
    numbers = dealt[[int(rows[0]) for rows in groups]]
    _, numbers = np.unique(numbers, return_inverse=True)
    return _dealt(groups, numbers)
