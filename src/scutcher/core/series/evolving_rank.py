"""How many changes there are, and when each begins and ends: windows that grow, shrink or move."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from scutcher.core.arrays import Floats, Integers
from scutcher.core.errors import ModelError
from scutcher.core.numeric.effective_channels import effective_channels
from scutcher.core.numeric.lapack import largest_eigenpairs
from scutcher.core.progress import Watch, tell

FIRST, MOST_SIZES, ROWS, SUBSETS, LEVEL, IN_A_ROW = 8, 100, 12, 20, 0.99, 3
"""Values that are followed, windows at most, sizes and subsets from which noise is learned."""


@dataclass(frozen=True, eq=False)
class EvolvingRank:
    """Singular values of windows that grow from the first row and from the last.

    Attributes
    ----------
    sizes : (m,) int array
        Rows in each window.
    forward, backward : (m, 8) float arrays
        Singular values, uncentred; of the first rows and of the last rows; NaN where there are fewer.
    limit : (n,) float array
        Largest singular value that noise makes in 1, 2, … n rows, 99 %.
    k : int
        Components that were taken as signal when the noise was learned.
    """

    sizes: Integers
    forward: Floats
    backward: Floats
    limit: Floats
    k: int

    def limits(self, value: int) -> Floats:
        """What noise makes of the value at a place (0 for the first), in each window; (m,)."""
        rows = self.sizes - value
        found: Floats = np.where(rows >= 1, self.limit[np.maximum(rows, 1) - 1], np.nan)
        return found

    def appears(self) -> list[int | None]:
        """By which row each value has risen above noise, from 0; None where it never does."""
        found = []
        for value in range(FIRST):
            place = self._first_above(self.forward, value)
            found.append(None if place is None else int(self.sizes[place]) - 1)
        return found

    def disappears(self) -> list[int | None]:
        """From which row on each value is noise again, seen from the end; None where it never was more."""
        n, found = int(self.sizes[-1]), []
        for value in range(FIRST):
            place = self._first_above(self.backward, value)
            found.append(None if place is None else n - int(self.sizes[place]))
        return found

    def _first_above(self, values: Floats, value: int) -> int | None:
        above = values[:, value] > self.limits(value)
        for place in range(len(above) - IN_A_ROW + 1):
            if above[place : place + IN_A_ROW].all():
                return place
        return None


def evolving_rank(spectra: Floats, k: int, seed: int = 1, watch: Watch | None = None) -> EvolvingRank:
    """Follow the singular values of growing windows, with what noise alone would make.

    Parameters
    ----------
    spectra : (n, p) float array
        In order; not centred here, and should not have been.
    k : int
        Components of the uncentred series that are signal.

    Raises
    ------
    ModelError
        Fewer than five spectra, or no spectra left for noise.

    References
    ----------
    Maeder, Anal. Chem. 59 (1987) 527–530.
    """
    n = len(spectra)
    if n < 5 or k >= n:
        raise ModelError(f"{n} spectra are too few to follow {k} changes.", "Bring in more spectra.")
    sizes = np.arange(1, n + 1) if n <= MOST_SIZES else np.unique(np.rint(np.linspace(1, n, MOST_SIZES)))
    sizes = sizes.astype(np.intp)
    gram = spectra @ spectra.T
    forward, backward = np.full((len(sizes), FIRST), np.nan), np.full((len(sizes), FIRST), np.nan)
    for place, size in enumerate(sizes.tolist()):
        tell(watch, place / len(sizes))
        forward[place, : min(size, FIRST)] = _leading(gram[:size, :size])
        backward[place, : min(size, FIRST)] = _leading(gram[n - size :, n - size :])
    return EvolvingRank(sizes, forward, backward, noise_limit(spectra, k, seed), k)


def moving_rank(spectra: Floats, width: int) -> Floats:
    """The leading singular values of windows of `width` rows about each row, (n, 8); NaN at the ends."""
    n = len(spectra)
    if not 2 <= width <= n:
        raise ModelError(f"A window of {width} spectra was asked for.", f"Choose 2 to {n}.")
    gram, found, half = spectra @ spectra.T, np.full((n, FIRST), np.nan), width // 2
    for first in range(n - width + 1):
        own = gram[first : first + width, first : first + width]
        found[first + half, : min(width, FIRST)] = _leading(own)
    return found


def noise_limit(spectra: Floats, k: int, seed: int = 1) -> Floats:
    """The largest singular value that the noise of these spectra makes in 1…n rows, at 99 %; (n,).

    Learned from rows left after k components, drawn at random: holds for smoothed noise too.
    """
    from scipy.special import ndtri

    n, p = spectra.shape
    u, s, v = np.linalg.svd(spectra, full_matrices=False)
    left = (u[:, k:] * s[k:]) @ v[k:]
    channels = effective_channels(s**2, k, n, p)
    grown = left @ left.T * (n / (n - k))
    if channels > 2.0 * k:
        grown *= channels / (channels - k)
    rng = np.random.default_rng(seed)
    sizes = np.unique(np.rint(np.geomspace(1, n, ROWS)).astype(np.intp))
    reached = []
    for size in sizes.tolist():
        squares = []
        for _ in range(SUBSETS):
            rows = np.sort(rng.choice(n, size, replace=False))
            squares.append(float(_leading(grown[np.ix_(rows, rows)])[0] ** 2))
        reached.append(np.sqrt(np.mean(squares) + float(ndtri(LEVEL)) * np.std(squares, ddof=1)))
    places = np.sqrt(np.arange(1, n + 1))
    found: Floats = np.interp(places, np.sqrt(sizes), np.maximum.accumulate(reached))
    return found


def _leading(gram: Floats) -> Floats:
    """The first eight singular values of rows with these products."""
    values, _ = largest_eigenpairs(gram, min(FIRST, len(gram)), vectors=False)
    found: Floats = np.sqrt(np.maximum(values, 0.0))
    return found
