"""Which class regions a sample lies in, in all scores that are kept."""

from __future__ import annotations

import numpy as np

from scutcher.core.arrays import Booleans, Floats, Integers
from scutcher.core.computed_once import computed_once
from scutcher.core.frozen import frozen


@frozen(eq=False)
class Regions:
    """Membership of n samples in the regions of c classes.

    Attributes
    ----------
    inside : (n, c) bool array
    too_few : tuple of int
        Classes with so few samples that they have no region.
    """

    inside: Booleans
    too_few: tuple[int, ...]

    @computed_once
    def counts(self) -> Integers:
        """In how many regions each sample lies, (n,)."""
        counts: Integers = self.inside.sum(axis=1)
        return counts


def class_regions(scores: Floats, codes: Integers, count: int, level: float) -> Regions:
    """Ellipsoids from the mean and covariance of each class, for one more sample of it.

    `(t − m)ᵀ S⁻¹ (t − m) ≤ k(n² − 1)/(n(n − k)) · F_level(k, n − k)`; a class needs k + 2 samples.

    Parameters
    ----------
    scores : (n, k) float array
    codes : (n,) int array
        Class of each sample; negative for none.
    count : int
        Classes there are.
    level : float
        Coverage.
    """
    from scipy.special import fdtri

    k = scores.shape[1]
    inside = np.zeros((len(scores), count), dtype=bool)
    too_few = []
    for code in range(count):
        own = scores[codes == code]
        n = len(own)
        if n < k + 2:
            too_few += [code] if n else []
            continue
        middle = own.mean(axis=0)
        covariance = np.atleast_2d(np.cov(own, rowvar=False))
        away = scores - middle
        if np.linalg.matrix_rank(covariance) < k:
            too_few.append(code)
            continue
        squares = np.einsum("ij,ij->i", away, np.linalg.solve(covariance, away.T).T)
        limit = k * (n**2 - 1.0) / (n * (n - k)) * float(fdtri(k, n - k, level))
        inside[:, code] = squares <= limit
    return Regions(inside, tuple(too_few))


def overlap(inside: Booleans) -> Floats:
    """Asymmetric binary distance between classes by the samples in their regions, (c, c).

    `1 − |both| / |either|` over the samples that lie in at least one of the two; 0 where all are shared, 1
    where none is, NaN where neither region has any (Jaccard, Bull. Soc. Vaud. Sci. Nat. 37 (1901) 547–579).
    """
    members = np.asarray(inside, dtype=np.float64)
    both: Floats = members.T @ members
    sizes = np.diag(both)
    either: Floats = sizes[:, np.newaxis] + sizes - both
    found = np.full(both.shape, np.nan)
    np.divide(both, either, out=found, where=either > 0.0)
    return 1.0 - found


def hull_gap(one: Floats, two: Floats) -> float:
    """Shortest distance between two convex hulls in a plane; negative by the depth of their overlap.

    Parameters
    ----------
    one, two : (h, 2) float arrays
        Corners in order; a point or a line is a hull too. In the unit of the scores.

    References
    ----------
    Separating axes: Gottschalk, Lin & Manocha, Proc. SIGGRAPH 96 (1996) 171–180.
    """
    if not len(one) or not len(two):
        return float("nan")
    best = -np.inf
    for direction in _normals(one, two):
        a, b = one @ direction, two @ direction
        best = max(best, float(b.min() - a.max()), float(a.min() - b.max()))
    if best > 0.0:
        return _apart(one, two)
    return best


def _normals(one: Floats, two: Floats) -> Floats:
    edges = np.vstack([np.roll(hull, -1, axis=0) - hull for hull in (one, two)])
    lengths = np.hypot(edges[:, 0], edges[:, 1])
    edges = edges[lengths > 0.0] / lengths[lengths > 0.0, np.newaxis]
    found: Floats = np.vstack([np.column_stack([-edges[:, 1], edges[:, 0]]), edges, np.eye(2)])
    return found


def _apart(one: Floats, two: Floats) -> float:
    """Smallest distance between the edges of two hulls that do not meet."""
    return min(_corner_to_edges(one, two), _corner_to_edges(two, one))


def _corner_to_edges(corners: Floats, hull: Floats) -> float:
    starts, ends = hull, np.roll(hull, -1, axis=0)
    along = ends - starts
    squares = np.maximum((along**2).sum(axis=1), np.finfo(float).tiny)
    away = corners[:, np.newaxis, :] - starts
    share = np.clip((away * along).sum(axis=2) / squares, 0.0, 1.0)
    nearest = starts + share[:, :, np.newaxis] * along
    return float(np.sqrt(((corners[:, np.newaxis, :] - nearest) ** 2).sum(axis=2)).min())
