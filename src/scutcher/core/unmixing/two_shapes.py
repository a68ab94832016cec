"""How far two shapes could turn: everything that is not negative and explains the data as well, exactly."""

from __future__ import annotations

import numpy as np

from scutcher.core.arrays import Floats
from scutcher.core.frozen import frozen
from scutcher.core.unmixing.first_shapes import leading_scores


@frozen(eq=False)
class TwoRange:
    """The plane of two components along one line, b = second over first score.

    Attributes
    ----------
    outer, inner : (float, float)
        Between which shapes are not negative, and between which the samples lie.
    low, high : (2, p) float arrays
        The smallest and largest value of each shape, at largest value one.
    amounts_low, amounts_high : (n, 2) float arrays
        Of the amounts of shapes so scaled.
    width : float
        Mean over the channels of high less low, the wider of both; above 0.1 the shape is not determined.
    """

    outer: tuple[float, float]
    inner: tuple[float, float]
    low: Floats
    high: Floats
    amounts_low: Floats
    amounts_high: Floats
    width: float


def two_range(spectra: Floats) -> TwoRange:
    """The range of the two shapes and of their amounts.

    Parameters
    ----------
    spectra : (n, p) float array
        Uncentred, not negative but for noise.

    References
    ----------
    Lawton & Sylvestre, Technometrics 13 (1971) 617–633.
    """
    scores, (one, two) = leading_scores(spectra, 2)
    ratio = np.divide(-one, two, out=np.full(len(one), np.nan), where=two != 0.0)
    outer = (float(np.max(ratio[two > 0.0])), float(np.min(ratio[two < 0.0])))
    strong = scores[:, 0] > 1e-3 * scores[:, 0].max()
    places = scores[strong, 1] / scores[strong, 0]
    inner = (float(places.min()), float(places.max()))
    ends = ((min(outer[0], inner[0]), inner[0]), (inner[1], max(outer[1], inner[1])))
    shapes = [[_shape(one, two, b) for b in pair] for pair in ends]
    low = np.array([np.minimum(*pair) for pair in shapes])
    high = np.array([np.maximum(*pair) for pair in shapes])
    amounts = [
        np.linalg.lstsq(np.array([first, second]).T, spectra.T, rcond=None)[0].T
        for first in shapes[0]
        for second in shapes[1]
    ]
    every = np.maximum(np.array(amounts), 0.0)
    width = float((high - low).mean(axis=1).max())
    return TwoRange(outer, inner, low, high, every.min(axis=0), every.max(axis=0), width)


def _shape(one: Floats, two: Floats, b: float) -> Floats:
    line = np.maximum(one + b * two, 0.0)
    found: Floats = line / line.max()
    return found
