"""Checks on the width of a moving window."""

from __future__ import annotations

import numpy as np

from scutcher.core.arrays import Floats
from scutcher.core.errors import RecipeError


def check_window(window: int, channels: int, least: int = 3) -> None:
    """Refuse a window that is even or longer than the spectrum.

    Raises
    ------
    RecipeError
    """
    longest = channels if channels % 2 else channels - 1
    if window % 2 and least <= window <= longest:
        return
    near = sorted({max(least, min(longest, w)) for w in ((window - 1) | 1, window | 1)} - {window})
    choose = " or ".join(str(w) for w in near) or str(least)
    raise RecipeError(
        f"The window is {window} channels; it must be odd, from {least} to {longest}.", f"Choose {choose}."
    )


def weighted_window(values: Floats, weights: Floats) -> Floats:
    """Weighted mean around each channel, over the channels there are. Shapes (n, p), (odd,) → (n, p)."""
    from scipy.ndimage import correlate1d

    sums: Floats = correlate1d(values, weights, axis=1, mode="constant")
    seen = correlate1d(np.ones(values.shape[1]), weights, mode="constant")
    sums *= 1.0 / seen
    return sums
