"""Rows of one sample made into one: by their mean, their median, or the first of them."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from scutcher.core.arrays import Floats
from scutcher.core.recipes.block_settings import Repeats


def one_of_each(values: Floats, counts: Sequence[int], how: Repeats = "mean") -> Floats:
    """Runs of neighbouring rows, each made into one row.

    Parameters
    ----------
    values : (n, p) float array
    counts : m ints ≥ 1 that sum to n
        Rows of each run.
    how : {"mean", "median", "first"}
        Medians are taken variable by variable.

    Returns
    -------
    (m, p) float array
    """
    sizes = np.asarray(counts, dtype=np.intp)
    if (sizes == 1).all():
        return values
    starts = np.concatenate([[0], np.cumsum(sizes)[:-1]]).astype(np.intp)
    if how == "first":
        return np.asarray(values[starts])
    if how == "mean":
        found: Floats = np.add.reduceat(values, starts, axis=0) / sizes[:, np.newaxis]
        return found
    found = np.empty((len(sizes), values.shape[1]))
    for size in np.unique(sizes).tolist():  # all runs of a length at once
        own = np.flatnonzero(sizes == size)
        found[own] = np.median(values[starts[own][:, np.newaxis] + np.arange(size)], axis=1)
    return found
