"""The difference of every pair of spectra, by its likeness to a reference."""

from __future__ import annotations

import numpy as np

from scutcher.core.arrays import Booleans, Floats
from scutcher.core.errors import ModelError
from scutcher.core.frozen import frozen
from scutcher.core.numeric.background import background_at
from scutcher.core.words import shown

NEAR, NOTHING = 1e-4, 1e-24
"""Shares of the squares of two spectra below which their difference is formed anew, and is nothing."""

ALIKE = 0.01
"""Likenesses that differ by less are taken as one: then the larger difference comes first."""


@frozen(eq=False)
class Reference:
    """What a difference should look like: values (m,) on an axis (m,), rising."""

    axis: Floats
    values: Floats

    def at(self, places: Floats) -> Floats:
        """By a natural cubic spline.

        Raises
        ------
        ModelError
            It does not reach so far.
        """
        reach = 1e-9 * float(np.ptp(self.axis))
        if places.min() < self.axis[0] - reach or places.max() > self.axis[-1] + reach:
            raise ModelError(
                f"The reference goes from {shown(self.axis[0])} to {shown(self.axis[-1])}, the spectra "
                f"from {shown(places.min())} to {shown(places.max())}.",
                "Leave out the channels that it does not cover, or take another reference.",
            )
        from scipy.interpolate import CubicSpline  # here: it takes long to load

        found: Floats = CubicSpline(self.axis, self.values, bc_type="natural")(places)
        return found


def drawn_peak(axis: Floats, centre: float, sd: float) -> Reference:
    """A bell of height one as a reference; centre and standard deviation in axis units."""
    return Reference(axis, np.exp(-0.5 * ((axis - centre) / sd) ** 2))


@frozen(eq=False)
class Pairs:
    """Every pair of a series.

    Attributes
    ----------
    likeness : (n, n) float array
        |cosine| of the difference and the reference, both without background; NaN where two are the same.
        Signed where that was asked for: then of row less column.
    amplitude : (n, n) float array
        Of row less column, in units of the reference.
    shift : (n, n) float array
        At which the reference was most like it, axis units.
    z, least_z : (n, n) float array and float
        Amplitudes in standard errors, and what a pair that counts is above.
    reach : float
        What no pair, nor any sum of spectra, can exceed.
    signed : bool
    """

    likeness: Floats
    amplitude: Floats
    shift: Floats
    z: Floats
    least_z: float
    reach: float
    signed: bool

    @property
    def counts(self) -> Booleans:
        """The pairs whose difference is above noise, (n, n)."""
        found: Booleans = (self.z > self.least_z) & np.isfinite(self.likeness)
        return found

    def best(self, number: int, apart: int | None = None) -> list[tuple[int, int]]:
        """The best pairs, a before b, no two within `apart` places of each other at both ends.

        Likenesses within 0.01 of each other are one: of them the largest difference comes first.
        """
        n = len(self.likeness)
        apart = max(n // 50, 0) if apart is None else apart
        counts = self.counts
        if not self.signed:
            counts &= np.triu(np.ones((n, n), dtype=bool), 1)
        rows, columns = np.nonzero(counts)
        if not len(rows):
            return []
        likeness, z = self.likeness[rows, columns], self.z[rows, columns]
        steps = np.floor((likeness.max() - likeness) / ALIKE)
        found: list[tuple[int, int]] = []
        for place in np.lexsort((-z, steps)).tolist():
            pair = int(rows[place]), int(columns[place])
            if all(abs(pair[0] - a) > apart or abs(pair[1] - b) > apart for a, b in found):
                found.append(pair)
                if len(found) == number:
                    break
        return found


@frozen(eq=False)
class PairSearch:
    """A series made ready: its scores on the kept channels, so that a reference costs little.

    Attributes
    ----------
    axis, kept : (p,) float and bool arrays
        Channels, and those that are compared.
    base : (p_kept, b) float array
        The background, orthonormal.
    scores, directions : (n, k) and (k, p_kept) float arrays
    sigma : float
        Noise of one channel of one spectrum.
    shifts : (m,) float array
    stretch : int
        How many neighbours each spectrum was averaged from.
    """

    axis: Floats
    kept: Booleans
    base: Floats
    scores: Floats
    directions: Floats
    sigma: float
    shifts: Floats
    stretch: int

    def pairs(self, reference: Reference, level: float = 0.95, signed: bool = False) -> Pairs:
        """Score every pair against a reference; see `search_of`.

        Raises
        ------
        ModelError
            The reference does not cover the channels, or is nothing but background.
        """
        from scipy.special import ndtri

        n, t = len(self.scores), self.scores
        squares = np.einsum("ij,ij->i", t, t)
        both = squares[:, np.newaxis] + squares
        distance = self._distances(both)
        same = distance <= NOTHING * np.maximum(both, 1e-300)
        root = np.sqrt(np.where(same, np.inf, distance))
        likeness, amplitude, shift = np.full((n, n), -np.inf), np.zeros((n, n)), np.zeros((n, n))
        reach, length_0 = 0.0, 0.0
        places = self.axis[self.kept]
        for delta in self.shifts[np.argsort(np.abs(self.shifts), kind="stable")].tolist():
            raw = reference.at(places - delta)
            shape = raw - self.base @ (self.base.T @ raw)
            length = float(np.linalg.norm(shape))
            if not length > 1e-10 * float(np.linalg.norm(raw)):
                raise ModelError("The reference is nothing but background.", "Choose a plainer background.")
            length_0 = length_0 or length
            seen = self.directions @ shape / length
            reach = max(reach, float(np.linalg.norm(seen)))
            along = t @ seen
            away = along[:, np.newaxis] - along
            own = away / root if signed else np.abs(away) / root
            better = own > likeness * (1.0 + 1e-12) if delta else np.ones((n, n), dtype=bool)
            likeness[better], amplitude[better] = own[better], (away / length)[better]
            shift[better] = delta
        error = np.sqrt(2.0 / self.stretch) * self.sigma / length_0
        z = np.abs(amplitude) / error if error > 0.0 else np.full((n, n), np.inf)
        least = float(-ndtri((1.0 - level) / (n * (n - 1.0))))
        likeness[same] = np.nan
        return Pairs(np.minimum(likeness, 1.0), amplitude, shift, z, least, min(reach, 1.0), signed)

    def _distances(self, both: Floats) -> Floats:
        """Squared, (n, n); of near-equal spectra from their difference."""
        t = self.scores
        found: Floats = np.maximum(both - 2.0 * (t @ t.T), 0.0)
        for row, column in np.argwhere(np.triu(found < NEAR * both, 1)).tolist():
            found[row, column] = found[column, row] = float(np.sum((t[row] - t[column]) ** 2))
        np.fill_diagonal(found, 0.0)
        return found


def search_of(
    spectra: Floats,
    axis: Floats,
    k: int | None,
    degree: int = 1,
    most_shift: float = 0.0,
    kept: Booleans | None = None,
    stretch: int = 1,
) -> PairSearch:
    """Make a series ready for references.

    Parameters
    ----------
    spectra : (n, p) float array
        In order; any intensity unit; no gaps.
    axis : (p,) float array
        Rising.
    k : int or None
        Components that are kept, by B1; None for all.
    degree : int
        Of the background, −1 for none to 4; ★ 1, offset and slope.
    most_shift : float
        How far the reference may be shifted, axis units, in half channels; 0 for not at all. Channels that
        near to an end are left out.
    kept : (p,) bool array, optional
        The channels that are compared.
    stretch : int
        Each spectrum is the mean of so many neighbours (odd; fewer at the ends).

    Raises
    ------
    ModelError
        Too few channels or spectra are left.
    """
    n = len(spectra)
    if n < 3:
        raise ModelError(f"There are {n} spectra: a series has three or more.", "Bring in more spectra.")
    edge = 1e-9 * float(np.ptp(axis))
    inside = (axis >= axis[0] + most_shift - edge) & (axis <= axis[-1] - most_shift + edge)
    inside = inside if kept is None else inside & kept
    count = int(inside.sum())
    if count < degree + 4:
        raise ModelError(f"{count} channels are left to be compared.", "Compare more of them.")
    base = background_at(axis[inside], degree)
    z = spectra[:, inside] - spectra[:, inside].mean(axis=0)
    z = z - (z @ base) @ base.T
    u, s, v = np.linalg.svd(z, full_matrices=False)
    rank = int(np.sum(s > 1e-12 * max(float(s[0]), 1e-300)))
    k = rank if k is None else min(k, rank)
    free = (n - 1 - k) * (count - base.shape[1] - k)
    sigma = float(np.sqrt(np.sum(s[k:] ** 2) / free)) if free > 0 else 0.0
    scores = averaged(u[:, :k] * s[:k], stretch)
    half = 0.5 * float(np.median(np.diff(axis)))
    steps = int(np.floor(most_shift / half + 1e-9))
    shifts: Floats = half * np.arange(-float(steps), steps + 1.0)
    return PairSearch(axis, inside, base, scores, v[:k], sigma, shifts, stretch)


def averaged(values: Floats, stretch: int) -> Floats:
    """Each row with its neighbours to a width of `stretch` rows, (n, k); fewer at the ends."""
    if stretch <= 1:
        return values
    n, half = len(values), stretch // 2
    sums = np.vstack([np.zeros(values.shape[1]), np.cumsum(values, axis=0)])
    low, high = np.maximum(np.arange(n) - half, 0), np.minimum(np.arange(n) + half + 1, n)
    found: Floats = (sums[high] - sums[low]) / (high - low)[:, np.newaxis]
    return found
