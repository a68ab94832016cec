"""How far a limit lies beyond the one at 95 % where few samples were left out.

The scaled χ² has one shape for its spread. Left-out distances of few samples reach further: their large
values come from the samples that a segment's model fits worst, and scale and spread are themselves estimated.
At 95 % this and the smaller models of the segments cancel; at 99 % and 30 samples χ² holds 96.7 to 98.5 %.
"""

from __future__ import annotations

import numpy as np

from scutcher.core.arrays import Floats
from scutcher.core.distances.limits import chi_square_quantile

ANCHOR = 0.95
"""The level up to which the limit is the scaled χ²."""

FEWEST = 3.0


def tail_ratio(level: float, samples: float, freedom: float, skewness: float = 0.0) -> float:
    """The quantile at `level` as a multiple of that at 95 %; 1 at 95 %.

    Parameters
    ----------
    level : float
        0.95 or more.
    samples : float
        How many distances were left out, as far as each tells something of its own.
    freedom : float
        2·mean²/variance of them.
    skewness : float
        Theirs; counts where it is above that of χ² (Pearson's type III).

    Notes
    -----
    The normal quantile grows by that of Student's t with samples/(1 + 6/freedom) (a variance of χ²-like
    values is known that much worse), less what it grows by at 95 %.

    References
    ----------
    Pearson, Phil. Trans. A 186 (1895) 343–414 (type III); Hahn, J. Am. Stat. Assoc. 64 (1969) 878–888
    (limits for a new observation from an estimated mean and variance).
    """
    from scipy.special import ndtr, ndtri

    shape = 8.0 / max(2.0 * float(np.sqrt(2.0 / freedom)), skewness) ** 2
    effective = max(samples / (1.0 + 6.0 / freedom), FEWEST)
    grown = _grown(level, effective) - _grown(ANCHOR, effective)

    def quantile(at: float) -> float:
        return freedom + float(np.sqrt(freedom / shape)) * (chi_square_quantile(shape, at) - shape)

    return float(quantile(float(ndtr(ndtri(level) + grown))) / quantile(ANCHOR))


def skewness_of(distances: Floats) -> float:
    """Third moment over the spread to the third, raised by 1 + 6/m for the smallness of the sample."""
    away = distances - distances.mean()
    return float((away**3).mean() / (away**2).mean() ** 1.5) * (1.0 + 6.0 / len(distances))


def _grown(level: float, samples: float) -> float:
    """By how much the quantile for a new value passes the normal one when mean and variance are estimated."""
    from scipy.special import ndtri, stdtrit

    return float(stdtrit(samples - 1.0, level) * np.sqrt(1.0 + 1.0 / samples) - ndtri(level))
