"""Bringing spectra with different axes onto one: linear interpolation, never beyond what was measured."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from scutcher.core.arrays import Floats
from scutcher.core.errors import TableError
from scutcher.core.words import shown


def common_axis(axes: Sequence[Floats]) -> Floats:
    """The channels of the coarsest axis that lie within all of them.

    Parameters
    ----------
    axes : (p_i,) float arrays, each rising or falling, all in one unit

    Returns
    -------
    (p,) float array
        In the direction of the coarsest axis.

    Raises
    ------
    TableError
        Fewer than two channels are common to all.
    """
    low = max(float(axis.min()) for axis in axes)
    high = min(float(axis.max()) for axis in axes)
    coarsest = max(axes, key=lambda axis: float(np.ptp(axis)) / max(len(axis) - 1, 1))
    reach = 1e-9 * float(np.ptp(coarsest))
    kept: Floats = coarsest[(coarsest >= low - reach) & (coarsest <= high + reach)]
    if len(kept) < 2:
        raise TableError(
            f"The axes overlap from {shown(low)} to {shown(high)} only.", "Bring the files in one by one."
        )
    return kept


def resampled(values: Floats, axis: Floats, onto: Floats) -> Floats:
    """Interpolate spectra linearly, (n, p) → (n, len(onto)); a gap makes gaps of its neighbours."""
    order = np.argsort(axis)
    x, ys = axis[order], values[:, order]
    place = np.clip(np.searchsorted(x, onto) - 1, 0, len(x) - 2)
    share = np.clip((onto - x[place]) / (x[place + 1] - x[place]), 0.0, 1.0)
    left, right = ys[:, place], ys[:, place + 1]
    found: Floats = np.where(
        share == 0.0, left, np.where(share == 1.0, right, left * (1 - share) + right * share)
    )
    return found
