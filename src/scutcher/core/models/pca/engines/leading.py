"""The leading eigenvectors of a symmetric matrix, by block Krylov iteration."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np

from scutcher.core.arrays import Floats
from scutcher.core.numeric.lapack import largest_eigenpairs
from scutcher.core.numeric.threads import one_thread
from scutcher.core.progress import Watch, tell
from scutcher.core.scaling.gram_matrix import GramMatrix, as_gram

SETTLED = 1e-7
"""Residual of the wanted eigenpairs, as a share of the gap below them: what their subspace is off by."""

FLOOR = 4e-15
"""Residual, as a share of the largest eigenvalue, below which rounding is all there is."""

SINGLE_SETTLED, SINGLE_FLOOR = 3e-5, 1e-7
"""The same where much of the matrix is in single precision; the floor as a share of the last eigenvalue."""

STALLED = 0.7
"""Then, what must be left of the residual from one restart to the next: else rounding is all there is."""

TINY, SMALL = 80, 320  # rows up to which all eigenvectors, and up to which a full reduction, are faster
RESTARTS, STAGE = 40, 16
"""Starts anew from the best vectors at most, and steps after which it is looked whether they settled."""
CHECKED = 12  # steps from a new start that look for an eigenvector that was missed


Shown = Callable[[Floats, Floats, Floats], bool]
"""Shown what is known so far, vectors, values and residuals of the first, until it answers True."""


def leading_eigenvectors(
    gram: Floats | GramMatrix,
    k: int,
    seed: int = 0,
    watch: Watch | None = None,
    shown: Shown | None = None,
) -> Floats:
    """Orthonormal vectors that span the k leading eigenvectors of a Gram matrix.

    Parameters
    ----------
    gram : (q, q) float array or GramMatrix
        Symmetric, no negative eigenvalues; not changed.
    k : int
        From 1 to q.
    seed : int
        Of the random start.
    watch : Watch, optional
        Asked before each product.
    shown : function, optional
        Shown the pairs as they are after some steps.

    Returns
    -------
    (q, k + spare) float array
        Leading first; the span of the first k is right to about 1e-7, or to what single precision allows
        where a part of the matrix is in it; a few more are less exact. From all eigenvectors where that is
        faster or where the iteration does not settle.

    References
    ----------
    Wu & Simon, SIAM J. Matrix Anal. Appl. 22 (2000) 602–616 (thick restart), with full
    reorthogonalisation; one vector at a time, since BLAS multiplies a matrix by one vector five times as
    fast as by six.
    """
    gram = as_gram(gram)
    q, kept = len(gram), k + min(8, max(4, k // 2))
    most = kept + max(50, k)
    if q <= SMALL or 2 * most >= q:
        return _all(gram, min(q, kept))
    rng = np.random.default_rng(seed)
    basis, image = np.empty((q, most), order="F"), np.empty((q, most), order="F")
    with one_thread():
        vectors: Floats
        before = np.inf
        size, following = 0, gram.times(rng.normal(size=q))
        for _ in range(RESTARTS * (most // STAGE + 1)):
            wide = min(max(size, kept) + STAGE, most)
            following = _grown(gram, basis, image, size, wide, following, rng, watch)
            values, turned = np.linalg.eigh(basis[:, :wide].T @ image[:, :wide])
            values, turned = values[::-1], turned[:, ::-1][:, :kept]
            vectors, images, size = basis[:, :wide] @ turned, image[:, :wide] @ turned, wide
            away = np.linalg.norm(images[:, :k] - vectors[:, :k] * values[:k], axis=0)
            if shown is not None and shown(vectors, values, away):
                shown = None
            if _settled(away, values, k, gram.single):
                if _missed(gram, vectors, values[k - 1], rng):
                    break
                return vectors
            if wide == most:
                if gram.single and away.max() > STALLED * before:
                    return vectors
                before = float(away.max())
                basis[:, :kept], image[:, :kept], size = vectors, images, kept
    return _all(gram, kept)


def _settled(away: Floats, values: Floats, k: int, single: bool) -> bool:
    """Whether the first k pairs are as exact as they have to be."""
    gap, last = float(values[k - 1] - values[k]), float(values[k - 1])
    if single:
        return bool(away[:k].max() <= max(SINGLE_SETTLED * gap, SINGLE_FLOOR * last))
    return bool(away[:k].max() <= max(SETTLED * gap, FLOOR * float(values[0])))


def _all(gram: GramMatrix, width: int) -> Floats:
    """The leading vectors by a full reduction; where it is faster only those wanted are turned back."""
    product = gram.whole()
    if TINY < len(product) <= SMALL:
        return largest_eigenpairs(product, width)[1]
    leading: Floats = np.linalg.eigh(product)[1][:, ::-1][:, :width]
    return leading


def _grown(
    gram: GramMatrix,
    basis: Floats,
    image: Floats,
    size: int,
    most: int,
    following: Floats,
    rng: np.random.Generator,
    watch: Watch | None = None,
) -> Floats:
    """Extend an orthonormal basis and its image by Krylov vectors; answers the one that would follow."""
    for place in range(size, most):
        tell(watch, 0.0)
        seen = basis[:, :place]
        basis[:, place] = _orthogonal(following, seen, rng)
        following = image[:, place] = gram.times(basis[:, place])
    return _orthogonal(following, basis[:, :most], rng) if most < len(gram) else following


def _orthogonal(vector: Floats, seen: Floats, rng: np.random.Generator) -> Floats:
    """A unit vector orthogonal to those seen; a random one where nothing new is left in the given one."""
    size = float(np.linalg.norm(vector))
    fresh = vector - seen @ (seen.T @ vector)
    left = float(np.linalg.norm(fresh))
    if left <= 1e-12 * size or left == 0.0:
        fresh = rng.normal(size=len(vector))
        fresh = fresh - seen @ (seen.T @ fresh)
        left = float(np.linalg.norm(fresh))
    fresh = fresh / left
    fresh = fresh - seen @ (seen.T @ fresh)
    unit: Floats = fresh / np.linalg.norm(fresh)
    return unit


def _missed(gram: GramMatrix, vectors: Floats, least: float, rng: np.random.Generator) -> bool:
    """Whether a new start finds more beyond the vectors: a second one of an eigenvalue that was found."""
    kept = vectors.shape[1]
    basis, image = np.empty((2, len(gram), kept + CHECKED))
    basis[:, :kept] = image[:, :kept] = vectors
    _grown(gram, basis, image, kept, kept + CHECKED, rng.normal(size=len(gram)), rng)
    highest = np.linalg.eigvalsh(basis[:, kept:].T @ image[:, kept:])[-1]
    return bool(highest > least * (1.0 + 1e-9))
