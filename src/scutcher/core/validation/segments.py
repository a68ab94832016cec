"""Segments: which samples are left out together in a validation."""

from __future__ import annotations

import numpy as np

from scutcher.core.arrays import Integers
from scutcher.core.data.grid import grid_of, image_column, square_numbers
from scutcher.core.data.replicates import replicate_codes
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
    return list(_split(group_codes(table)))


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
    codes, groups = group_codes(table), group_count(table)
    if settings.scheme == "class":
        return _by_class(table, settings, groups)
    count = settings.segments or min(USUAL, groups)
    if settings.scheme == "one-out":
        count = groups
    if count > groups or count < 2:
        raise RecipeError(
            f"{count} segments were asked for; there are {groups} groups of samples that stay together.",
            f"Choose 2 to {groups}." if groups >= 2 else "Validation needs at least 2 groups.",
        )
    rng = np.random.default_rng(settings.seed)
    if settings.scheme in ("tiles", "images"):
        return Segments((_by_tiles(table, settings, count, codes, rng),), groups, "", np.empty(0, np.intp))
    repeats = settings.repeats if settings.scheme == "random" else 1
    parts = tuple(_split(_numbers(settings.scheme, groups, count, rng)[codes]) for _ in range(repeats))
    return Segments(parts, groups, "", np.empty(0, np.intp))


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


def _split(numbers: Integers) -> tuple[Integers, ...]:
    """The rows of each number from 0 up, rising; (n,) int array → as many arrays as there are numbers."""
    ends = np.cumsum(np.bincount(numbers))[:-1]
    return tuple(np.split(np.argsort(numbers, kind="stable"), ends))


def _by_class(table: Table, settings: ValidateSettings, groups: int) -> Segments:
    column = class_column_of(table, settings.column or "")
    for rows in [] if table.replicates is None else groups_of(table):
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
    return Segments((parts,), groups, column.name, np.flatnonzero(codes < 0))


def _by_tiles(
    table: Table, settings: ValidateSettings, count: int, codes: Integers, rng: np.random.Generator
) -> tuple[Integers, ...]:
    """Groups go where their first pixel lies."""
    firsts = np.unique(codes, return_index=True)[1]
    several = image_column(table) if settings.scheme == "images" else None
    if several is not None:
        dealt = (rng.permutation(len(several.levels)) % count)[several.codes()]
        numbers = dealt[firsts]
        return _split(np.unique(numbers, return_inverse=True)[1][codes])
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
    _, numbers = np.unique(dealt[firsts], return_inverse=True)
    return _split(numbers[codes])
