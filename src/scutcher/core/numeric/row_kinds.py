"""Which rows of a matrix are alike."""

from __future__ import annotations

import numpy as np

from scutcher.core.arrays import Booleans, Integers


def kinds_of_rows(values: Integers | Booleans) -> tuple[Integers, Integers]:
    """Number the different rows, in the order of their values from the first column on.

    As `numpy.unique` along an axis, which holds the interpreter while it sorts: a window waits for that.

    Parameters
    ----------
    values : (n, m) array of integers or booleans

    Returns
    -------
    first : (kinds,) int array
        The first row of each kind.
    kind : (n,) int array
        The number of each row's kind.
    """
    kind = np.zeros(len(values), dtype=np.int64)
    for column in values.T:
        _, own = np.unique(column, return_inverse=True)
        _, kind = np.unique(kind * (int(own.max(initial=0)) + 1) + own, return_inverse=True)
    return np.unique(kind, return_index=True)[1], kind
