"""Replicates: how far repeats of one thing lie apart, and their averages."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from functools import lru_cache

import numpy as np

from scutcher.core.arrays import Floats, Integers
from scutcher.core.data.columns import ClassColumn, PropertyColumn
from scutcher.core.data.names import Names
from scutcher.core.data.table import Table
from scutcher.core.errors import TableError


def replicate_spread(values: Floats, replicates: Sequence[str]) -> Floats:
    """Distance of each sample from the mean of its replicates, root mean square over the variables.

    Parameters
    ----------
    values : (n, p) float array
        May hold gaps (NaN), which are passed over.
    replicates : n replicate ids

    Returns
    -------
    (n,) float array
        In the unit of the values; NaN for a sample without another replicate.
    """
    spread = np.full(len(values), np.nan)
    codes = replicate_codes(replicates)
    order = np.argsort(codes, kind="stable")
    sizes = np.bincount(codes)
    starts = np.r_[0, np.cumsum(sizes)[:-1]]
    for part in _runs(sizes, PART_ROWS):  # whole groups at a time, for the memory's sake
        rows = order[starts[part[0]] : starts[part[-1]] + sizes[part[-1]]]
        spread[rows] = _spread_of_runs(values[rows], sizes[part])
    spread[sizes[codes] == 1] = np.nan
    return spread


PART_ROWS = 4096
"""Samples that are looked at together."""


def _runs(sizes: Integers, most: int) -> list[Integers]:
    """The groups in runs of about so many samples."""
    part = np.cumsum(sizes) // most
    return np.split(np.arange(len(sizes)), np.flatnonzero(np.diff(part)) + 1)


def _spread_of_runs(values: Floats, sizes: Integers) -> Floats:
    """As `replicate_spread`, of rows that stand group by group. (m, p), (g,) → (m,)."""
    known = ~np.isnan(values)
    starts = np.r_[0, np.cumsum(sizes)[:-1]]
    sums = np.add.reduceat(np.where(known, values, 0.0), starts, axis=0)
    counts = np.add.reduceat(known, starts, axis=0, dtype=np.intp)
    means = sums / np.maximum(counts, 1)
    squares = np.where(known, values - np.repeat(means, sizes, axis=0), 0.0) ** 2
    found: Floats = np.sqrt(squares.sum(axis=1) / np.maximum(known.sum(axis=1), 1))
    return found


def replicate_codes(replicates: Sequence[str]) -> Integers:
    """The number of each sample's replicate group, in order of first appearance. (n,), not to be written to.

    A sample without an id is a group of its own.
    """
    return _codes_of(Names.of(replicates))


@lru_cache(8)
def _codes_of(replicates: Names) -> Integers:
    codes: dict[str | int, int] = {}
    keys = (name or row for row, name in enumerate(replicates))
    found = np.fromiter((codes.setdefault(key, len(codes)) for key in keys), np.intp, len(replicates))
    found.flags.writeable = False
    return found


def repeats(replicates: Sequence[str]) -> list[list[int]]:
    """The rows of each replicate id, in order of first appearance; a sample without an id is its own."""
    found: dict[str | int, list[int]] = {}
    for row, name in enumerate(replicates):
        found.setdefault(name or row, []).append(row)
    return list(found.values())


def averaged(table: Table) -> Table:
    """One sample for each replicate id: the mean of its samples that are not set aside.

    A sample without a replicate id stays as it is, under its own id. Gaps are passed over; a gap stays
    where all replicates have one. A class on which the replicates agree is kept, otherwise it is not
    known; properties are averaged.

    Raises
    ------
    TableError
        There is no replicate column, or a sample without a replicate id is called as a replicate id is.
    """
    if table.replicates is None:
        raise TableError("There is no replicate column.", "Name one when the file is brought in.")
    used = set(table.used_rows().tolist())
    parts = [[row for row in rows if row in used] for rows in repeats(table.replicates)]
    kept = [rows for rows in parts if rows]
    return replace(
        table,
        values=np.array([_mean(table.values[rows]) for rows in kept]),
        ids=tuple(table.replicates[rows[0]] or table.ids[rows[0]] for rows in kept),
        classes=tuple(
            ClassColumn(c.name, tuple(_agreed(c.values, rows) for rows in kept), c.levels)
            for c in table.classes
        ),
        properties=tuple(
            PropertyColumn(
                c.name, np.array([_mean(c.values[rows][:, np.newaxis])[0] for rows in kept]), c.unit
            )
            for c in table.properties
        ),
        replicates=None,
        set_aside={},
    )


def _agreed(values: Sequence[str], rows: list[int]) -> str:
    found = {values[row] for row in rows}
    return found.pop() if len(found) == 1 else ""


def _mean(values: Floats) -> Floats:
    known = ~np.isnan(values)
    mean = np.full(values.shape[1], np.nan)
    np.divide(np.where(known, values, 0.0).sum(axis=0), known.sum(axis=0), out=mean, where=known.any(axis=0))
    return mean
