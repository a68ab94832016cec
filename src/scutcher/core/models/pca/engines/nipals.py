"""One component after the other by alternating regressions (NIPALS), also around gaps."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from scutcher.core.arrays import Floats
from scutcher.core.models.pca.decomposition import (
    Decomposition,
    check_total,
    column_signs,
    first_components,
    too_many,
)
from scutcher.core.models.pca.engines.residuals import leftover
from scutcher.core.numeric.matrix_rank import rank_threshold
from scutcher.core.progress import Watch, tell
from scutcher.core.scaling.scaled_matrix import Scaled

TOLERANCE, ROUNDS = 1e-10, 2000


def nipals(
    z: Floats,
    centred: bool,
    k: int,
    tolerance: float = TOLERANCE,
    rounds: int = ROUNDS,
    watch: Watch | None = None,
) -> Decomposition:
    """Find the first k components, each by alternating between scores and loadings, then deflating.

    Parameters
    ----------
    z : (n, p) float array
        May hold gaps (NaN): regressions are then over the known values, and Q is over them; scores and
        loadings are no longer exactly orthogonal.
    centred : bool
    k : int
    tolerance : float
        A component has converged when its scores change by less than this share of their length.
    rounds : int
        Most iterations of a component; what has not converged by then is listed in `unsettled`.
    watch : Watch, optional
        Asked in each iteration whether to go on.

    Raises
    ------
    ModelError
        Nothing varies, or there are fewer than k components.
    Stopped

    References
    ----------
    Wold, in Krishnaiah (ed.), Multivariate Analysis, Academic Press (1966) 391–420.
    """
    n, p = z.shape
    known = None if np.isfinite(z.sum()) else (~np.isnan(z)).astype(float)
    left = z.copy() if known is None else np.where(known > 0.0, z, 0.0)
    total = float(np.einsum("ij,ij->", left, left))
    check_total(total, z)
    scores, loadings = np.zeros((n, k)), np.zeros((p, k))
    iterations, unsettled = [], []
    nothing = rank_threshold(n, p, float(np.sqrt(total))) ** 2
    for a in range(k):
        if float(np.einsum("ij,ij->", left, left)) <= nothing:
            raise too_many(k, a)
        before = scores[:, :a], loadings[:, :a]
        found, used, settled = _component(left, known, *before, tolerance, rounds, watch)
        scores[:, a], loadings[:, a] = found
        iterations.append(used)
        if not settled:
            unsettled.append(a + 1)
        left -= np.outer(scores[:, a], loadings[:, a]) if known is None else _known_part(found, known)
    signs = column_signs(loadings)
    scores *= signs
    loadings *= signs
    freedom = n - 1 if centred else n
    whole = z if known is None else left + scores @ loadings.T
    squares = np.einsum("ij,ij->j", scores, scores)
    left_over = leftover(whole, scores, loadings, freedom)
    parts = first_components("nipals", Scaled(whole), centred, scores, loadings, squares, total, left_over)
    return replace(parts, iterations=tuple(iterations), unsettled=tuple(unsettled))


def _component(
    left: Floats,
    known: Floats | None,
    scores: Floats,
    loadings: Floats,
    tolerance: float,
    rounds: int,
    watch: Watch | None,
) -> tuple[tuple[Floats, Floats], int, bool]:
    """Scores and loading of the next component, the iterations it took, and whether it converged."""
    t = left[:, int(np.einsum("ij,ij->j", left, left).argmax())].copy()
    p = np.zeros(left.shape[1])
    for used in range(1, rounds + 1):
        tell(watch, 0.0)
        p = left.T @ t if known is None else _ratio(left.T @ t, known.T @ (t * t))
        if known is None:
            p -= loadings @ (loadings.T @ p)  # rounding must not bring back what was taken off
        p /= np.linalg.norm(p)
        fresh = left @ p if known is None else _ratio(left @ p, known @ (p * p))
        moved = float(np.linalg.norm(fresh - t))
        t = fresh
        if moved <= tolerance * float(np.linalg.norm(t)):
            return (t, p), used, True
    return (t, p), rounds, False


def _ratio(over: Floats, under: Floats) -> Floats:
    found: Floats = np.divide(over, under, out=np.zeros_like(over), where=under > 0.0)
    return found


def _known_part(found: tuple[Floats, Floats], known: Floats) -> Floats:
    part: Floats = np.outer(*found) * known
    return part
