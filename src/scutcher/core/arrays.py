"""The array types of the core, and the one way to make an array read-only."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray

from scutcher.core.late_modules import read_when_used

Floats = NDArray[np.float64]
Reals = NDArray[Any]  # double or single precision
Integers = NDArray[np.intp]
Booleans = NDArray[np.bool_]

read_when_used("numpy.f2py", "numpy.testing")

CONSTANT_SPREAD = 1e-12
"""A variable whose spread is below this share of its magnitude is constant: rounding leaves a trace."""


WIDE = 1000
"""Values of a row from which rows are compared at full speed; narrower ones are taken several at a time."""

FIRST_LOOK = 64
"""Rows that show of most variables that they vary, before all rows are looked at."""


def read_only(values: NDArray[Any]) -> NDArray[Any]:
    """Return an array that nobody can write to; copies only where the memory belongs to somebody else."""
    if not values.flags.writeable:
        return values
    frozen = values.view()
    frozen.flags.writeable = False
    return frozen


def value_span(values: Floats) -> tuple[Floats, Floats]:
    """Lowest and highest value of each variable, (n, p) → two (p,) arrays; NaN where there are only gaps."""
    n, p = values.shape
    several = WIDE // p if p else 0
    if several < 2 or n < several * max(several, 10) or not values.flags.c_contiguous:
        return np.fmin.reduce(values, axis=0), np.fmax.reduce(values, axis=0)
    low, high = value_span(values[: n - n % several].reshape(-1, several * p))
    ends = [low.reshape(several, p), high.reshape(several, p), values[n - n % several :]]
    return value_span(np.vstack(ends))


def distinct(codes: Integers) -> Integers:
    """The different numbers of some small ones, rising: counted where `np.unique` would look each up."""
    if not len(codes):
        return codes
    lowest = int(codes.min())
    return np.flatnonzero(np.bincount(codes - lowest)) + lowest


def in_strict_order(places: Sequence[float] | Floats) -> bool:
    """Whether numbers all rise or all fall from one to the next; so do one and none."""
    steps = np.diff(places)
    return bool((steps > 0).all() or (steps < 0).all())


def is_constant(low: Floats, high: Floats) -> Booleans:
    """Which variables with these spans do not vary; those with gaps only are not called constant."""
    constant: Booleans = high - low <= CONSTANT_SPREAD * np.maximum(np.abs(low), np.abs(high))
    return constant


def constant_columns(values: Floats) -> Booleans:
    """Tell which variables do not vary over the samples; gaps are passed over.

    Parameters
    ----------
    values : (n, p) float array
        Any unit; may hold gaps (NaN).

    Returns
    -------
    (p,) bool array
    """
    found = np.ones(values.shape[1], dtype=bool)
    first = values[:FIRST_LOOK]
    low, high = value_span(first)
    varies = high - low > 2.0 * CONSTANT_SPREAD * np.maximum(np.abs(low), np.abs(high))
    found[varies] = False  # a few rows vary, so all do: wider values elsewhere would be a wider spread
    if len(values) > FIRST_LOOK and not varies.all():
        rest = np.flatnonzero(~varies)
        found[rest] = is_constant(*value_span(values[:, rest]))
    else:
        found[~varies] = is_constant(low[~varies], high[~varies])
    return found
