"""The mean of each group of rows."""

from __future__ import annotations

import numpy as np

from scutcher.core.arrays import Floats, Integers


def means_by_group(values: Floats, codes: Integers) -> Floats:
    """The mean of the rows of each group.

    Parameters
    ----------
    values : (n, p) float array
    codes : (n,) int array
        The group of each row, from 0.

    Returns
    -------
    (g, p) float array
        One row more than the largest code says; NaN for a group without rows.
    """
    sizes = np.bincount(codes)
    means = np.empty((len(sizes), values.shape[1]))
    for place, column in enumerate(values.T):
        means[:, place] = np.bincount(codes, column)
    with np.errstate(invalid="ignore"):  # no rows: 0 / 0
        means /= sizes[:, np.newaxis]
    return means
