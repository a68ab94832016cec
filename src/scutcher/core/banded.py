"""Penalised least squares along an axis: many spectra as one banded system."""

from __future__ import annotations

import numpy as np

from scutcher.core.arrays import Floats


def second_difference_penalty(channels: int) -> Floats:
    """The lower bands of DᵀD for second differences.

    Returns
    -------
    (3, p) float array
        Diagonal, first and second lower band, as `scipy.linalg.solveh_banded` wants them.
    """
    steps = np.zeros((3, channels))
    for offset, parts in enumerate(((1.0, 4.0, 1.0), (-2.0, -2.0), (1.0,))):
        for start, part in enumerate(parts):
            steps[offset, start : start + channels - 2] += part
    return steps


def whittaker_fit(values: Floats, weights: Floats, smoothness: float) -> Floats:
    """Minimise `Σ w (y − f)² + smoothness · Σ (Δ²f)²` for each spectrum.

    All spectra are one system whose blocks do not touch: one call of LAPACK.

    Parameters
    ----------
    values, weights : (n, p) float arrays
        Finite, p ≥ 3; weights not negative and positive for at least two channels of each spectrum.
    smoothness : float
        λ, dimensionless where the weights are.

    Returns
    -------
    (n, p) float array
        f, in the unit of the values.

    References
    ----------
    Eilers, Anal. Chem. 75 (2003) 3631–3636.
    """
    from scipy.linalg import solveh_banded

    n, p = values.shape
    bands = np.tile(smoothness * second_difference_penalty(p), (1, n))
    bands[0] += weights.ravel()
    solved: Floats = solveh_banded(
        bands, (weights * values).ravel(), lower=True, overwrite_ab=True, overwrite_b=True, check_finite=False
    )
    return solved.reshape(n, p)
