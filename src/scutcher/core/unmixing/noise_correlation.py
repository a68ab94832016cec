"""How noise goes on from channel to channel, from what a fit leaves over."""

from __future__ import annotations

import numpy as np

from scutcher.core.arrays import Floats
from scutcher.core.frozen import frozen

ROUNDS = 10
"""Times what the fit took out of the noise is given back."""

UNSEEN = 5
"""So many products of neighbours below their chance limit end the correlation."""


@frozen(eq=False)
class NoiseCorrelation:
    """Correlation of noise between channels.

    Attributes
    ----------
    matrix : (p, p) float array
        Toeplitz, ones on the diagonal.
    window : int
        Channels over which noise goes on; 0 for white.
    freedom : float
        `tr K`: what divides a spectrum's sum of squares of residuals to its noise variance.
    """

    matrix: Floats
    window: int
    freedom: float


def noise_correlation(residuals: Floats, taken: Floats) -> NoiseCorrelation:
    """Learn it from residuals.

    Parameters
    ----------
    residuals : (n, p) float array
    taken : (p, r) float array
        What was fitted: shapes and background, as columns.

    References
    ----------
    Flat-top lag window: Politis & Romano, J. Time Ser. Anal. 16 (1995) 67–103.
    """
    n, p = residuals.shape
    sizes = np.sqrt(np.mean(residuals**2, axis=1, keepdims=True))
    rows = np.divide(residuals, sizes, out=np.zeros_like(residuals), where=sizes > 0.0)
    most = min(p // 4, int(np.ceil(3.0 * np.sqrt(p))))
    products = np.array([np.sum(rows[:, : p - h] * rows[:, h:]) for h in range(most + 1)]) / (n * p)
    window = _window(products, n * p, most)
    lags = np.arange(p)
    weights = np.zeros(p)
    weights[: most + 1] = 1.0 if window else 0.0
    weights[: most + 1] *= np.clip(2.0 - lags[: most + 1] / window, 0.0, 1.0) if window else 0.0
    weights[0] = 1.0
    measured = np.zeros(p)
    measured[: most + 1] = products
    rho = measured / measured[0] if measured[0] > 0.0 else np.eye(1, p)[0]
    base = np.linalg.qr(taken)[0]
    used = np.flatnonzero(weights > 0.0)
    for _ in range(ROUNDS):
        whole = _toeplitz(weights * rho)
        held = _left_traces(whole, base, used) / p
        share = (p - used) / p
        fresh = np.zeros(p)
        fresh[used] = (measured[used] / measured[0] * held[0] + whole[0, used] * share - held) / share
        rho = fresh / fresh[0]
    matrix = _toeplitz(_not_negative(weights * rho))
    return NoiseCorrelation(matrix, window, float(_left_traces(matrix, base, np.zeros(1, int))[0]))


def _window(products: Floats, cells: int, most: int) -> int:
    """The width: one less than the first lag from which five products are within chance."""
    small = np.abs(products / products[0]) < 2.0 * np.sqrt(np.log10(cells) / cells)
    for h in range(1, most + 2 - UNSEEN):
        if small[h : h + UNSEEN].all():
            return h - 1
    return most // 2


def _left_traces(whole: Floats, base: Floats, lags: np.ndarray) -> Floats:
    """Traces along the diagonals at some lags of `(I − QQᵀ) O (I − QQᵀ)`, for a Toeplitz O.

    Only the columns of Q are multiplied: the products of p × p matrices would take p/q times as long.
    """
    p = len(whole)
    across = whole @ base
    inner = base @ (base.T @ across)

    def along(one: Floats, other: Floats, lag: int) -> float:
        return float(np.einsum("ij,ij->", one[: p - lag], other[lag:]))

    return np.array(
        [
            (p - lag) * whole[0, lag] + along(inner - across, base, lag) - along(base, across, lag)
            for lag in lags.tolist()
        ]
    )


def _toeplitz(first: Floats) -> Floats:
    p = len(first)
    found: Floats = first[np.abs(np.arange(p)[:, np.newaxis] - np.arange(p))]
    return found


def _not_negative(first: Floats) -> Floats:
    """The correlation with negative power in the circle of length 2p set to zero."""
    p = len(first)
    circle = np.concatenate([first, [0.0], first[:0:-1]])
    power = np.maximum(np.fft.rfft(circle).real, 0.0)
    found: Floats = np.fft.irfft(power, 2 * p)[:p]
    scaled: Floats = found / found[0]
    return scaled
