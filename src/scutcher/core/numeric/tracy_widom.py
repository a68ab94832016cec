"""Quantiles of the largest eigenvalue of noise."""

from __future__ import annotations

SHAPE, SCALE, SHIFT = 46.446, 0.186054, 9.84801


def quantile(level: float) -> float:
    """The Tracy–Widom quantile (β = 1), as a shifted gamma; 0.9794 at 0.95.

    References
    ----------
    Chiani, J. Multivar. Anal. 129 (2014) 69–81.
    """
    from scipy.special import gammaincinv

    return float(gammaincinv(SHAPE, level)) * SCALE - SHIFT
