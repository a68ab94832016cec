"""Sums of runs of rows. `np.add.reduceat` keeps the interpreter's lock: the window would wait for it."""

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
