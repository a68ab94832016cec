"""Where a class lies on a score plane: ellipses, hulls, centroids."""

from __future__ import annotations

import numpy as np

from scutcher.core.arrays import Floats, Integers
from scutcher.core.distances.limits import t2_limit_training
from scutcher.core.numeric.group_means import means_by_group

FEWEST = 4
TURN = np.linspace(0.0, 2.0 * np.pi, 121)

MANY, WAYS, NEAR = 200, 10, 1e-12
"""Points above which those inside are left out of a hull; each how many-th direction of the turn is looked
in; how far inside, as a share of their extent, they must be."""


def joint_ellipse(eigenvalues: Floats, n: int, level: float) -> Floats:
    """The T² limit of the training samples on two components, as an outline.

    Parameters
    ----------
    eigenvalues : two floats
        λ of the two components.
    n : int
        Training samples.
    level : float
        Coverage.

    Returns
    -------
    (121, 2) float array
        In score units, round the origin; empty where the limit is undefined.
    """
    limit = t2_limit_training(n, 2, level).value
    if limit is None:
        return np.empty((0, 2))
    radius = np.sqrt(limit * np.asarray(eigenvalues[:2]))
    return np.column_stack([radius[0] * np.cos(TURN), radius[1] * np.sin(TURN)])


def deviation_ellipse(points: Floats, deviations: float) -> Floats:
    """The ellipse at a number of standard deviations round the mean of points, (m, 2) → (121, 2)."""
    return _outline(points, deviations)


def class_ellipse(points: Floats, level: float) -> Floats:
    """The region that covers a share of a class, from its own mean and covariance.

    `(x − m)ᵀ S⁻¹ (x − m) ≤ 2(n² − 1)/(n(n − 2)) · F_level(2, n − 2)`: for one more sample of the class.

    Parameters
    ----------
    points : (m, 2) float array
        Scores of the class.
    level : float
        Coverage.

    Returns
    -------
    (121, 2) float array
        Empty for fewer than four samples, and where they lie on a line.
    """
    n = len(points)
    if n < FEWEST:
        return np.empty((0, 2))
    from scipy.special import fdtri

    limit = 2.0 * (n**2 - 1.0) / (n * (n - 2.0)) * float(fdtri(2, n - 2, level))
    return _outline(points, float(np.sqrt(limit)))


def _outline(points: Floats, radius: float) -> Floats:
    if len(points) < 3:
        return np.empty((0, 2))
    mean = points.mean(axis=0)
    away = points - mean
    values, vectors = np.linalg.eigh(away.T @ away / (len(points) - 1))
    if values[0] <= 1e-14 * values[1]:
        return np.empty((0, 2))
    circle = np.column_stack([np.cos(TURN), np.sin(TURN)])
    found: Floats = mean + radius * (circle * np.sqrt(values)) @ vectors.T
    return found


def hull(points: Floats) -> Floats:
    """The convex hull of points, closed, (m, 2) → (h + 1, 2); empty for fewer than three.

    References
    ----------
    Andrew, Inf. Process. Lett. 9 (1979) 216–219 (monotone chain).
    """
    if len(points) < 3:
        return np.empty((0, 2))
    some = _outer(points) if len(points) > MANY else points
    order = some[np.lexsort((some[:, 1], some[:, 0]))]
    sides = []
    for run in (order, order[::-1]):
        side: list[Floats] = []
        for point in run:
            while len(side) > 1 and _turns_right(side[-2], side[-1], point):
                side.pop()
            side.append(point)
        sides.append(side[:-1])
    outline = np.array(sides[0] + sides[1])
    found: Floats = np.vstack([outline, outline[:1]])
    return found


def _outer(points: Floats) -> Floats:
    """Points without those strictly inside the polygon of their extremes, which are corners of no hull.

    References
    ----------
    Akl and Toussaint, Inf. Process. Lett. 7 (1978) 219–222.
    """
    across, up = (side / (np.ptp(side) or 1.0) for side in (points - points[0]).T.copy())
    farthest = [int(np.argmax(across * np.cos(angle) + up * np.sin(angle))) for angle in TURN[:-1:WAYS]]
    inside = np.full(len(points), len(set(farthest)) > 2)
    for a, b in zip(farthest, farthest[1:] + farthest[:1], strict=True):
        if a != b:
            wide, tall = across[b] - across[a], up[b] - up[a]
            inside &= wide * (up - up[a]) - tall * (across - across[a]) > NEAR
    kept: Floats = points[~inside]
    return kept


def _turns_right(a: Floats, b: Floats, c: Floats) -> bool:
    return bool((b[0] - a[0]) * (c[1] - a[1]) - (b[1] - a[1]) * (c[0] - a[0]) <= 0.0)


def centroids(points: Floats, codes: Integers) -> dict[int, Floats]:
    """The mean of each class, code → (2,); points of no class, and those not known, are passed over."""
    there = np.flatnonzero((codes >= 0) & np.isfinite(points).all(axis=1))
    means = means_by_group(points[there], codes[there])
    return {code: means[code] for code in np.flatnonzero(np.isfinite(means[:, 0])).tolist()}
