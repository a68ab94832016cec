"""A robust fit that proposes outliers which hide each other from the ordinary one."""

from __future__ import annotations

import numpy as np

from scutcher.core.arrays import Booleans, Floats, Integers
from scutcher.core.distances.clean_part import LEVEL, clean_part, plane_of
from scutcher.core.distances.limits import chi_square_quantile
from scutcher.core.errors import ModelError
from scutcher.core.frozen import frozen
from scutcher.core.progress import Watch, tell

STARTS, STEPS, DIRECTIONS = 60, 30, 250


@frozen(eq=False)
class RobustFit:
    """What a fit that half of the samples decide makes of all of them.

    Attributes
    ----------
    score_distances, orthogonal_distances : (n,) float arrays
        Within the robust subspace (square root of a squared Mahalanobis distance), and from it (unit of z).
    score_limit, orthogonal_limit : float
        97.5 % limits for samples like the clean ones; infinite where nothing is left over.
    """

    score_distances: Floats
    orthogonal_distances: Floats
    score_limit: float
    orthogonal_limit: float

    def outlying(self) -> Booleans:
        """Samples past either limit, (n,)."""
        past: Booleans = (self.score_distances > self.score_limit) | (
            self.orthogonal_distances > self.orthogonal_limit
        )
        return past


def robust_fit(
    z: Floats, k: int, seed: int, watch: Watch | None = None, groups: Integers | None = None
) -> RobustFit:
    """Outlyingness by projections, a subspace of the least outlying three quarters, MCD within it.

    Distances and limits are then those of `clean_part`: no clean sample is measured against a plane that it
    made itself.

    Parameters
    ----------
    z : (n, p) float array
        Treated, centred and scaled; finite.
    k : int
        Components of the robust subspace.
    seed : int
        Of directions and starts.
    groups : (n,) int array, optional
        Samples with the same number, from 0, are repeats of one.

    Raises
    ------
    ModelError
        Fewer than 2k + 5 samples.

    References
    ----------
    Hubert, Rousseeuw & Vanden Branden, Technometrics 47 (2005) 64–79; MCD by concentration steps:
    Rousseeuw & Van Driessen, Technometrics 41 (1999) 212–223. The limit of the orthogonal distances by
    the Wilson–Hilferty approximation with median and MAD.
    """
    n = len(z)
    if n < 2 * k + 5:
        raise ModelError(
            f"A robust fit of {k} components needs {2 * k + 5} samples; there are {n}.",
            "Keep fewer components.",
        )
    rng = np.random.default_rng(seed)
    centred = z - np.median(z, axis=0)
    points = centred
    if n < z.shape[1]:  # the same distances in as few dimensions as there are
        left, singular, _ = np.linalg.svd(centred, full_matrices=False)
        rank = int(np.count_nonzero(singular > 1e-10 * singular[0]))
        points = left[:, :rank] * singular[:rank]
    half = max(int(np.ceil(0.75 * n)), (n + k + 1) // 2)
    core = np.argsort(_outlyingness(points, rng))[:half]
    tell(watch, 0.4)
    plane = plane_of(points[core], k)
    # one more time over the samples near that subspace, so that its direction does not hang on few
    away = np.sqrt(plane.measure(points)[1])
    near = away <= _orthogonal_limit(away[core])
    plane = plane_of(points[near], k, plane)
    scores = (points - plane.middle) @ plane.basis
    tell(watch, 0.6)
    centre, scatter = _minimum_covariance_determinant(scores, half, rng)
    within = np.einsum("ij,jk,ik->i", scores - centre, np.linalg.inv(scatter), scores - centre)
    first = near & (within <= chi_square_quantile(k, LEVEL))
    found = clean_part(points, first if first.sum() > k + 2 else near, k, seed, watch, groups)
    return RobustFit(np.sqrt(found.t2), np.sqrt(found.q), np.sqrt(found.t2_limit), np.sqrt(found.q_limit))


def _outlyingness(points: Floats, rng: np.random.Generator) -> Floats:
    """The largest robust z-score of each sample over directions through pairs of samples."""
    pairs = rng.integers(0, len(points), size=(DIRECTIONS, 2))
    directions = points[pairs[:, 0]] - points[pairs[:, 1]]
    lengths = np.linalg.norm(directions, axis=1)
    directions = directions[lengths > 0.0] / lengths[lengths > 0.0, np.newaxis]
    projected = points @ directions.T
    middle = np.median(projected, axis=0)
    spread = 1.4826 * np.median(np.abs(projected - middle), axis=0)
    known = spread > 0.0
    found: Floats = (np.abs(projected - middle)[:, known] / spread[known]).max(axis=1)
    return found


def _orthogonal_limit(distances: Floats) -> float:
    """97.5 % of distances whose power 2/3 is about normal."""
    powered = distances ** (2.0 / 3.0)
    middle = float(np.median(powered))
    spread = 1.4826 * float(np.median(np.abs(powered - middle)))
    return float((middle + 1.959964 * spread) ** 1.5)


def _minimum_covariance_determinant(
    points: Floats, half: int, rng: np.random.Generator
) -> tuple[Floats, Floats]:
    """Centre and scatter of the half of the points whose covariance has the smallest determinant."""
    n, k = points.shape
    best, best_size = np.arange(n), np.inf
    for _ in range(STARTS):
        chosen = rng.choice(n, size=k + 1, replace=False)
        for _ in range(STEPS):
            centre, scatter = _moments(points[chosen])
            away = points - centre
            distances = np.einsum("ij,jk,ik->i", away, np.linalg.pinv(scatter), away)
            fresh = np.sort(np.argsort(distances, kind="stable")[:half])
            if len(fresh) == len(chosen) and (fresh == chosen).all():
                break
            chosen = fresh
        size = float(np.linalg.slogdet(_moments(points[chosen])[1])[1])
        if size < best_size:
            best, best_size = chosen, size
    centre, scatter = _moments(points[best])
    away = points - centre
    distances = np.einsum("ij,jk,ik->i", away, np.linalg.pinv(scatter), away)
    scatter = scatter * float(np.median(distances)) / chi_square_quantile(k, 0.5)
    distances = np.einsum("ij,jk,ik->i", away, np.linalg.pinv(scatter), away)
    kept = distances <= chi_square_quantile(k, 0.975)
    centre, scatter = _moments(points[kept])
    return centre, scatter * (0.975 / _consistency(k))


def _consistency(k: int) -> float:
    """The share of the variance that a normal sample keeps when cut at its 97.5 % ellipsoid."""
    from scipy.special import gammainc

    return float(gammainc(k / 2 + 1, chi_square_quantile(k, 0.975) / 2))


def _moments(points: Floats) -> tuple[Floats, Floats]:
    centre = points.mean(axis=0)
    away = points - centre
    return centre, away.T @ away / max(len(points) - 1, 1) + 1e-12 * np.eye(points.shape[1]) * np.mean(
        away**2
    )
