"""The samples that a robust fit calls clean, and cut-offs that hold for samples of their kind.

Samples that made a plane lie nearer to it than others. Those of the clean part are therefore measured against
planes that were made without them, the others against the plane of the whole clean part; the cut-offs follow
from the former, corrected for having been cut.
"""

from __future__ import annotations

import numpy as np

from scutcher.core.arrays import Booleans, Floats, Integers
from scutcher.core.distances.limits import NOTHING, chi_square_quantile
from scutcher.core.frozen import frozen
from scutcher.core.numeric.lapack import largest_eigenpairs
from scutcher.core.progress import Watch, tell

LEVEL, KEPT = 0.975, 0.998
"""Coverage of each of the two cut-offs; and up to where samples belong to the clean part, so that it does not
shrink from its own cut-offs."""

PARTS, FEWER, ROUNDS = 10, 5, 10
"""Into how many the clean part is cut (fewer where it is large), and how often it may change."""

EXACT, TURNS, SPARE = 300, 6, 5
"""Samples or dimensions up to which planes are decomposed; else so many iterations, with spare directions."""


@frozen(eq=False)
class CleanPart:
    """What was found.

    Attributes
    ----------
    clean : (n,) bool array
    t2, q : (n,) float arrays
        Of each sample against a plane that it did not make.
    t2_limit, q_limit : float
        At `LEVEL`; infinite where there is nothing to measure.
    """

    clean: Booleans
    t2: Floats
    q: Floats
    t2_limit: float
    q_limit: float


@frozen(eq=False)
class Plane:
    """A centre (r,), k directions (r, k) and the variances along them (k,)."""

    middle: Floats
    basis: Floats
    variances: Floats

    def measure(self, points: Floats) -> tuple[Floats, Floats]:
        """T² and Q of points."""
        away = points - self.middle
        scores = away @ self.basis
        away = away - scores @ self.basis.T
        return (scores**2 / self.variances).sum(axis=1), np.einsum("ij,ij->i", away, away)


def clean_part(
    points: Floats,
    clean: Booleans,
    k: int,
    seed: int,
    watch: Watch | None = None,
    groups: Integers | None = None,
) -> CleanPart:
    """Let a clean part grow or shrink until its cut-offs are its own.

    Parameters
    ----------
    points : (n, r) float array
        Samples.
    clean : (n,) bool array
        A first one, of more than k + 2 samples.
    k : int
        Dimensions of the plane.
    seed : int
        By which the clean part is cut into pieces.
    groups : (n,) int array, optional
        Samples with the same number, from 0, are repeats: they fall into one piece.

    References
    ----------
    Pomerantsev, J. Chemometrics 22 (2008) 601–609 (moments of the distances); of a χ² that is cut at a
    quantile: `E x = f·F_{f+2}(q)/c`, `E x² = f(f+2)·F_{f+4}(q)/c`.
    """
    groups = np.arange(len(points)) if groups is None else groups
    parts = FEWER if len(points) > EXACT else PARTS
    piece = np.random.default_rng(seed).permutation(int(groups.max()) + 1)[groups] % parts
    best: CleanPart | None = None
    whole: Plane | None = None
    for turn in range(ROUNDS):
        tell(watch, 0.6 + 0.4 * turn / ROUNDS)
        members = points[clean]
        whole = plane_of(members, k, whole)
        t2, q = _measured(points, clean, piece, k, whole)
        total = float(np.square(members - whole.middle).sum(axis=1).mean())
        (t2_limit, t2_kept), (q_limit, q_kept) = _cut_offs(t2[clean]), (np.inf, np.inf)
        if float(np.median(q[clean])) > NOTHING * total:
            q_limit, q_kept = _cut_offs(q[clean])
        best = CleanPart(clean, t2, q, t2_limit, q_limit)
        fresh = (t2 <= t2_kept) & (q <= q_kept)
        if (fresh == clean).all() or fresh.sum() <= max(k + 2, len(points) // 2):
            break
        clean = fresh
    assert best is not None
    return best


def _measured(
    points: Floats, clean: Booleans, piece: Integers, k: int, whole: Plane
) -> tuple[Floats, Floats]:
    """T² and Q: the clean by planes of the other pieces of them, the rest by the plane of all clean ones."""
    t2, q = whole.measure(points)
    for at in np.unique(piece[clean]):
        here = clean & (piece == at)
        t2[here], q[here] = plane_of(points[clean & ~here], k, whole).measure(points[here])
    return t2, q


def plane_of(points: Floats, k: int, start: Plane | None = None) -> Plane:
    """The plane of some points; of many by subspace iteration, from another one where that is given."""
    middle = points.mean(axis=0)
    away = points - middle
    if k < away.shape[1] <= EXACT:
        squares, vectors = largest_eigenpairs(away.T @ away, k)
        singular, right = np.sqrt(np.maximum(squares, 0.0)), vectors.T
    elif min(away.shape) <= EXACT:
        _, singular, right = np.linalg.svd(away, full_matrices=False)
    else:
        chance = np.random.default_rng(0).normal(size=(away.shape[1], SPARE + (k if start is None else 0)))
        space = chance if start is None else np.hstack([start.basis, chance])
        for _ in range(2 * TURNS if start is None else TURNS):
            space = np.linalg.qr(away.T @ (away @ space))[0]
        _, singular, turned = np.linalg.svd(away @ space, full_matrices=False)
        right = turned @ space.T
    variances = singular[:k] ** 2 / max(len(points) - 1, 1)
    least = max(NOTHING * float(variances.sum()), float(np.finfo(float).tiny))  # where only others went there
    return Plane(middle, right[:k].T, np.maximum(variances, least))


def _cut_offs(distances: Floats) -> tuple[float, float]:
    """The quantiles at `LEVEL` and `KEPT` of the scaled χ² of which these are the part below the latter."""
    from scipy.optimize import brentq
    from scipy.special import fdtri, gammainc

    mean, square = float(distances.mean()), float((distances**2).mean())
    wanted = square / mean**2

    def parts(log_freedom: float) -> tuple[float, float]:
        f = float(np.exp(log_freedom))
        cut = chi_square_quantile(f, KEPT)
        first = f * float(gammainc(f / 2 + 1, cut / 2)) / KEPT
        return first, f * (f + 2) * float(gammainc(f / 2 + 2, cut / 2)) / KEPT

    def excess(log_freedom: float) -> float:
        first, second = parts(log_freedom)
        return second / first**2 - wanted

    lowest, highest = float(np.log(0.3)), float(np.log(1e5))
    if excess(highest) > 0.0:
        at = highest
    elif excess(lowest) < 0.0:
        at = lowest
    else:
        at = float(brentq(excess, lowest, highest))
    f = float(np.exp(at))
    # the mean comes from so many distances itself: F in place of χ²
    size = mean / parts(at)[0] * f
    low, high = (size * float(fdtri(f, f * len(distances), level)) for level in (LEVEL, KEPT))
    return low, high
