"""Reading spectra between their channels: linear, monotone cubic or spline; never beyond the ends."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

import numpy as np

from scutcher.core.arrays import Floats
from scutcher.core.data.resampling import resampled


def interpolator(kind: str, x: Floats, values: Floats) -> Callable[[Floats], Any]:
    """A function of positions that reads every spectrum.

    Parameters
    ----------
    kind : "linear", "monotone-cubic" (Fritsch–Carlson) or "spline" (cubic, not-a-knot)
    x : (p,) float array, rising or falling
    values : (n, p) float array, finite

    Returns
    -------
    function of (m,) positions → (n, m) values
    """
    if kind == "linear":
        return lambda onto: resampled(values, x, onto)
    order = np.argsort(x)
    x, values = x[order], values[:, order]
    from scipy.interpolate import CubicSpline, PchipInterpolator

    kinds: dict[str, Any] = {"monotone-cubic": PchipInterpolator, "spline": CubicSpline}
    found: Callable[[Floats], Any] = kinds[kind](x, values, axis=1, extrapolate=False)
    return found


def shifted(values: Floats, shifts: Floats, margin: int) -> Floats:
    """Each spectrum read at its channels plus its own shift, by cubic spline over the channel number.

    Parameters
    ----------
    values : (n, p) float array
    shifts : (n,) float array
        In channels, none above `margin` in magnitude.
    margin : int
        Channels that are dropped at each end, so that nothing is read beyond the ends.

    Returns
    -------
    (n, p − 2·margin) float array
        `found[i, j] = spectrum_i(j + margin + shifts[i])`.
    """
    from scipy.interpolate import CubicSpline

    n, p = values.shape
    spline = CubicSpline(np.arange(p, dtype=float), values, axis=1)
    kept = np.arange(margin, p - margin)
    whole = np.floor(shifts).astype(int)
    part = (shifts - whole)[:, np.newaxis]  # (n, 1), from 0 to 1
    place = np.clip(kept[np.newaxis, :] + whole[:, np.newaxis], 0, p - 2)
    part = part + (kept[np.newaxis, :] + whole[:, np.newaxis] - place)
    rows = np.arange(n)[:, np.newaxis]
    c = spline.c  # (4, p − 1, n)
    found: Floats = c[0][place, rows]
    for power in range(1, 4):
        found = found * part + c[power][place, rows]
    return found
