"""The array types of the core, and the one way to make an array read-only."""

from __future__ import annotations

from typing import Any

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Integers = NDArray[np.intp]
Booleans = NDArray[np.bool_]

CONSTANT_SPREAD = 1e-12
"""A variable whose spread is below this share of its magnitude is constant: rounding leaves a trace."""


def read_only(values: NDArray[Any]) -> NDArray[Any]:
    """Return an array that nobody can write to; copies only where the memory belongs to somebody else."""
    if not values.flags.writeable:
        return values
    frozen = values.view()
    frozen.flags.writeable = False
    return frozen


def constant_columns(values: Floats) -> Booleans:
    """Tell which variables do not vary over the samples; gaps are passed over.

    Parameters
    ----------
    values : (n, p) float array
        Any unit; may hold gaps (NaN). A variable with gaps only is not called constant.

    Returns
    -------
    (p,) bool array
    """
    low = np.fmin.reduce(values, axis=0)
    high = np.fmax.reduce(values, axis=0)
    magnitude = np.maximum(np.abs(low), np.abs(high))
    constant: Booleans = high - low <= CONSTANT_SPREAD * magnitude
    return constant
