"""Sums of runs of rows, means of tiles.

`np.add.reduceat` keeps the interpreter's lock: the window would wait for it.
"""

from __future__ import annotations

import numpy as np

from scutcher.core.arrays import Floats, Integers

LITTLE = 100_000
"""Values below which nobody notices, and NumPy is faster."""

LONG = 64
"""Rows of a run from which it is summed up by itself; shorter ones together with all that are as long."""


def sums_of_runs(values: Floats, starts: Integers) -> Floats:
    """The sum of the rows from each start to the next, or to the end.

    Parameters
    ----------
    values : (n, p) float array
    starts : (g,) int array
        Rising, the first one 0.

    Returns
    -------
    (g, p) float array
    """
    if values.size < LITTLE:
        few: Floats = np.add.reduceat(values, starts, axis=0)
        return few
    found = np.empty((len(starts), values.shape[1]))
    sizes = np.diff(starts, append=len(values))
    for run in np.flatnonzero(sizes >= LONG).tolist():
        np.add.reduce(values[starts[run] : starts[run] + sizes[run]], axis=0, out=found[run])
    for size in np.unique(sizes[sizes < LONG]).tolist():
        runs = np.flatnonzero(sizes == size)
        total = values[starts[runs]]
        for step in range(1, size):
            total += values[starts[runs] + step]
        found[runs] = total
    return found


def means_of_tiles(values: Floats, columns: Integers, tall: int, wide: int) -> Floats:
    """The mean of each tile of some columns; gaps are passed over.

    Parameters
    ----------
    values : (n, p) float array
        NaN where there is none.
    columns : (c,) int array
    tall, wide : int
        Rows and columns of a tile; those at the end may be smaller.

    Returns
    -------
    (⌈n / tall⌉, ⌈c / wide⌉) float array
        NaN where a tile has no value.
    """
    starts = np.arange(0, len(columns), wide)
    found = np.full((-(-len(values) // tall), len(starts)), np.nan)
    for row, start in enumerate(range(0, len(values), tall) if len(starts) else ()):
        part = values[start : start + tall].take(columns, axis=1)
        known = np.isfinite(part)
        sums = np.add.reduceat(np.where(known, part, 0.0).sum(axis=0), starts)
        counts = np.add.reduceat(known.sum(axis=0), starts)
        np.divide(sums, counts, out=found[row], where=counts > 0)
    return found
