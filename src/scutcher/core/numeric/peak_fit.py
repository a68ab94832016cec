"""Where a peak stands: a bell curve on a straight baseline, fitted to every spectrum at once."""

from __future__ import annotations

import numpy as np

from scutcher.core.arrays import Booleans, Floats
from scutcher.core.frozen import frozen

HALF_WIDTHS = 2.0 * np.sqrt(2.0 * np.log(2.0))


@frozen(eq=False)
class PeakFit:
    """A peak on a local straight baseline in each of n spectra.

    Attributes
    ----------
    centre, height, width : (n,) float arrays
        Position and full width at half height in the unit of the axis, height in that of the signal.
    baseline : (n, w) float array
        The straight line under it, over the window.
    curve : (n, w) float array
        Line and peak together.
    found : (n,) bool array
        Whether the fit settled on a maximum (or a minimum) inside the window.
    centre_error : (n,) float array
        Standard error of the position, for noise that is independent from channel to channel (w − 5).
    """

    centre: Floats
    height: Floats
    width: Floats
    baseline: Floats
    curve: Floats
    found: Booleans
    centre_error: Floats


def fit_peaks(x: Floats, values: Floats, rounds: int = 60) -> PeakFit:
    """Fit `b0 + b1·x + h·exp(−4 ln2 (x − c)²/w²)` by damped least squares, all spectra together.

    Parameters
    ----------
    x : (w,) float array
        Positions of the window's channels, w ≥ 6, rising or falling.
    values : (n, w) float array
        The spectra inside the window; finite.
    rounds : int
        Most iterations.

    References
    ----------
    Marquardt, J. Soc. Ind. Appl. Math. 11 (1963) 431–441, with the damping of each spectrum its own.
    """
    middle, reach = float(x.mean()), float(np.ptp(x)) / 2.0
    u = (x - middle) / reach  # (w,), from −1 to 1 or back
    size = np.maximum(np.ptp(values, axis=1, keepdims=True), np.finfo(float).tiny)
    y = (values - values.min(axis=1, keepdims=True)) / size
    guess = _first_guess(u, y)
    damping = np.full(len(y), 1e-2)
    loss = _loss(u, y, guess)
    for _ in range(rounds):
        step = _step(u, y, guess, damping)
        tried = guess + step
        tried[:, 4] = np.clip(np.abs(tried[:, 4]), 0.02, 4.0)
        fresh = _loss(u, y, tried)
        better = fresh <= loss
        guess[better], loss[better] = tried[better], fresh[better]
        damping = np.clip(np.where(better, damping / 5.0, damping * 5.0), 1e-12, 1e8)
        if np.abs(step).max() < 1e-10:
            break
    baseline, bell = _parts(u, guess)
    return PeakFit(
        centre=middle + reach * guess[:, 3],
        height=guess[:, 2] * size[:, 0],
        width=np.abs(guess[:, 4]) * reach * HALF_WIDTHS,
        baseline=baseline * size + values.min(axis=1, keepdims=True),
        curve=(baseline + guess[:, 2:3] * bell) * size + values.min(axis=1, keepdims=True),
        found=(np.abs(guess[:, 3]) < 1.0) & (np.abs(guess[:, 2]) > 1e-6),
        centre_error=reach * _centre_error(u, y, guess),
    )


def _first_guess(u: Floats, y: Floats) -> Floats:
    """Line through the ends, the largest departure from it as the peak. Columns: b0, b1, h, c, s."""
    line = y[:, :1] + (y[:, -1:] - y[:, :1]) * (u - u[0]) / (u[-1] - u[0])
    above = y - line
    top = np.abs(above).argmax(axis=1)
    rows = np.arange(len(y))
    slope = (y[:, -1] - y[:, 0]) / (u[-1] - u[0])
    return np.column_stack([y[:, 0] - slope * u[0], slope, above[rows, top], u[top], np.full(len(y), 0.3)])


def _parts(u: Floats, guess: Floats) -> tuple[Floats, Floats]:
    bell = np.exp(-0.5 * ((u - guess[:, 3:4]) / guess[:, 4:5]) ** 2)
    return guess[:, :1] + guess[:, 1:2] * u, bell


def _loss(u: Floats, y: Floats, guess: Floats) -> Floats:
    baseline, bell = _parts(u, guess)
    away = y - baseline - guess[:, 2:3] * bell
    found: Floats = np.einsum("ij,ij->i", away, away)
    return found


def _centre_error(u: Floats, y: Floats, guess: Floats) -> Floats:
    """Of the fitted position, (n,), from what is left over; NaN where it cannot be told."""
    slopes = _slopes(u, guess)
    normal = np.einsum("nwi,nwj->nij", slopes, slopes)
    variance = _loss(u, y, guess) / max(len(u) - 5, 1)
    found: Floats = np.full(len(y), np.nan)
    sound = np.linalg.cond(normal) < 1e14
    if sound.any():
        inverse = np.linalg.inv(normal[sound])
        found[sound] = np.sqrt(np.maximum(variance[sound] * inverse[:, 3, 3], 0.0))
    return found


def _slopes(u: Floats, guess: Floats) -> Floats:
    """Of the fitted curve by its five parameters, (n, w, 5)."""
    _, bell = _parts(u, guess)
    height, centre, spread = guess[:, 2:3], guess[:, 3:4], guess[:, 4:5]
    scaled = (u - centre) / spread
    found: Floats = np.stack(
        [
            np.ones_like(bell),
            np.broadcast_to(u, bell.shape),
            bell,
            height * bell * scaled / spread,
            height * bell * scaled**2 / spread,
        ],
        axis=2,
    )
    return found


def _step(u: Floats, y: Floats, guess: Floats, damping: Floats) -> Floats:
    """One damped Gauss–Newton step of each spectrum, (n, 5)."""
    baseline, bell = _parts(u, guess)
    away = y - baseline - guess[:, 2:3] * bell
    slopes = _slopes(u, guess)
    normal = np.einsum("nwi,nwj->nij", slopes, slopes)
    diagonal = np.einsum("nii->ni", normal)
    normal = normal + np.eye(5) * (damping[:, np.newaxis] * diagonal + 1e-12)[:, np.newaxis, :]
    right = np.einsum("nwi,nw->ni", slopes, away)
    solved: Floats = np.linalg.solve(normal, right[:, :, np.newaxis])[:, :, 0]
    return solved
