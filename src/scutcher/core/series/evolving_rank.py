"""How many changes there are, and when each begins and ends: windows that grow, shrink or move."""

from __future__ import annotations

import numpy as np

from scutcher.core.arrays import Floats, Integers
from scutcher.core.errors import ModelError
from scutcher.core.frozen import frozen
from scutcher.core.numeric.effective_channels import effective_channels
from scutcher.core.numeric.lapack import largest_eigenpairs
from scutcher.core.progress import Watch, tell

FIRST, MOST_SIZES, ROWS, SUBSETS, LEVEL, IN_A_ROW = 8, 100, 12, 20, 0.99, 3
"""Values that are followed, windows at most, sizes and subsets from which noise is learned."""


@frozen(eq=False)
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
    windows = _Windows(spectra)
    forward, backward = np.full((len(sizes), FIRST), np.nan), np.full((len(sizes), FIRST), np.nan)
    for place, size in enumerate(sizes.tolist()):
        tell(watch, place / len(sizes))
        forward[place, : min(size, FIRST)] = windows.leading(slice(size))
        backward[place, : min(size, FIRST)] = windows.leading(slice(n - size, n))
    return EvolvingRank(sizes, forward, backward, noise_limit(spectra, k, seed), k)


def moving_rank(spectra: Floats, width: int, watch: Watch | None = None) -> Floats:
    """The leading singular values of windows of `width` rows about each row, (n, 8); NaN at the ends.

    Raises
    ------
    ModelError
        The window is shorter than two rows or longer than all.
    Stopped
    """
    n = len(spectra)
    if not 2 <= width <= n:
        raise ModelError(f"A window of {width} spectra was asked for.", f"Choose 2 to {n}.")
    windows, found, half = _Windows(spectra), np.full((n, FIRST), np.nan), width // 2
    for first in range(n - width + 1):
        tell(watch, first / n)
        found[first + half, : min(width, FIRST)] = windows.leading(slice(first, first + width))
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
    grown = n / (n - k) * (channels / (channels - k) if channels > 2.0 * k else 1.0)
    windows = _Windows(left)
    rng = np.random.default_rng(seed)
    sizes = np.unique(np.rint(np.geomspace(1, n, ROWS)).astype(np.intp))
    reached = []
    for size in sizes.tolist():
        squares = []
        for _ in range(SUBSETS if size < n else 2):  # there is one subset of all of them
            rows = np.sort(rng.choice(n, size, replace=False))
            squares.append(grown * float(windows.leading(rows, 1)[0] ** 2))
        reached.append(np.sqrt(np.mean(squares) + float(ndtri(LEVEL)) * np.std(squares, ddof=1)))
    places = np.sqrt(np.arange(1, n + 1))
    found: Floats = np.interp(places, np.sqrt(sizes), np.maximum.accumulate(reached))
    return found


class _Windows:
    """Singular values of some rows, from products of rows or of channels, whichever are fewer."""

    def __init__(self, spectra: Floats) -> None:
        self._spectra = spectra
        n, p = spectra.shape
        self._gram = spectra @ spectra.T if n <= p else None

    def leading(self, rows: slice | Integers, count: int = FIRST) -> Floats:
        """The largest, as many as there are rows at most; those beyond the number of channels are zero."""
        if self._gram is not None:
            gram = self._gram[rows][:, rows]
            size = len(gram)
        else:
            own = self._spectra[rows]
            size = len(own)
            gram = own.T @ own if size > own.shape[1] else own @ own.T
        found = np.zeros(min(size, count))
        there = min(len(found), len(gram))
        values, _ = largest_eigenpairs(gram, there, vectors=False)
        found[:there] = np.sqrt(np.maximum(values, 0.0))
        return found
