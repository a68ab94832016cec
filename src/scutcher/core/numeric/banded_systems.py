"""Penalised least squares along an axis: many spectra as one banded system."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from scutcher.core.arrays import Booleans, Floats
from scutcher.core.errors import RecipeError

STIFF, ROUNDS, EXACT = 1e8, 12, 1e-8
"""Smoothness from which a solution is refined, how often, and to what share of the span of the values."""


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

    Raises
    ------
    RecipeError
        The system is singular to working precision, or is not solved to a millionth.

    References
    ----------
    Eilers, Anal. Chem. 75 (2003) 3631–3636.
    """
    from scipy.linalg import cho_solve_banded, cholesky_banded

    n, p = values.shape
    bands = np.tile(smoothness * second_difference_penalty(p), (1, n))
    bands[0] += weights.ravel()
    try:
        factor = cholesky_banded(bands, lower=True, overwrite_ab=True, check_finite=False), True
    except np.linalg.LinAlgError as error:
        raise _too_stiff(smoothness, p) from error

    def solve(right: Floats) -> Floats:
        return np.asarray(
            cho_solve_banded(factor, right.ravel(), overwrite_b=True, check_finite=False)
        ).reshape(n, p)

    curves = solve(weights * values)
    if smoothness < STIFF:
        return curves
    # what rounding in the factor took is found from what is left of the equations
    sizes = np.ptp(values, axis=1) + np.finfo(float).tiny
    for _ in range(ROUNDS):
        bent = np.diff(curves, 2, axis=1)
        back = np.zeros_like(curves)
        for offset, part in enumerate((1.0, -2.0, 1.0)):
            back[:, offset : offset + p - 2] += part * bent
        missing = solve(weights * (values - curves) - smoothness * back)
        curves += missing
        worst = float((np.abs(missing).max(axis=1) / sizes).max())
        if worst < EXACT:
            return curves
    raise _too_stiff(smoothness, p)


def _too_stiff(smoothness: float, channels: int) -> RecipeError:
    return RecipeError(
        f"A smoothness of {smoothness:g} over {channels} channels is too stiff to be solved.",
        "Choose a smaller one, by a factor of ten or more.",
    )


def reweighted_fit(
    spectra: Floats,
    smoothness: float,
    rounds: int,
    weigh: Callable[[Floats], Floats],
    settled: Callable[[Floats, Floats], Booleans],
) -> Floats:
    """Fit smooth curves again and again, each time weighing the channels by what they were off.

    Parameters
    ----------
    spectra : (n, p) float array
        Evenly spaced channels, p ≥ 3, finite.
    smoothness : float
        λ of the squared second differences.
    rounds : int
        Most iterations.
    weigh : (m, p) residuals → (m, p) weights
    settled : (m, p) weights before and after → (m,) bool
        Which spectra are done.

    Returns
    -------
    (n, p) float64 array
        In the unit of the signal.
    """
    curves = np.empty(spectra.shape)
    weights = np.ones(spectra.shape)
    going = np.arange(len(spectra))
    for _ in range(rounds):
        curves[going] = whittaker_fit(spectra[going], weights[going], smoothness)
        fresh = weigh(spectra[going] - curves[going])
        done = settled(weights[going], fresh)
        weights[going] = fresh
        going = going[~done]
        if not going.size:
            break
    return curves
