"""Rows of a large array put together anew, by two threads."""

from __future__ import annotations

import numpy as np

from scutcher.core.arrays import Floats, Integers
from scutcher.core.numeric.recycled import recycled
from scutcher.core.numeric.threads import in_parts


def rows_of(values: Floats, rows: Integers) -> Floats:
    """`values[rows]`, in memory of its own.

    Parameters
    ----------
    values : (n, p) float array
    rows : (m,) int array
        Negative ones count from the end.

    Raises
    ------
    IndexError
        There is no such row.
    """
    n = len(values)
    if not (len(rows) and values.flags.c_contiguous and rows.min() >= 0 and rows.max() < n):
        return values[rows]
    found = recycled((len(rows), *values.shape[1:]), values.dtype)

    def take(part: slice, own: None) -> None:
        np.take(values, rows[part], axis=0, out=found[part], mode="clip")  # what may raise is copied twice

    in_parts(take, (len(rows), values[0].size), lambda: None)
    return found
