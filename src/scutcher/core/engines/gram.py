"""The leading components by way of the smaller Gram matrix, their vectors polished on the data."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from scutcher.core.arrays import Floats
from scutcher.core.decomposition import (
    Decomposition,
    column_signs,
    first_components,
    nothing_varies,
    rank_threshold,
    too_many,
)
from scutcher.core.engines.leading import leading_eigenvectors
from scutcher.core.engines.leftover import cubes_of, leftover, residual_squares

LOST = 1e-7
"""Below this share of its largest eigenvalue a Gram matrix has lost what is wanted."""

WELL_CONDITIONED = 1e-5
"""Above this share a second Gram matrix loses nothing that matters."""

CLEAN = 1e-7
"""Below this share of the total, what is left over is computed from the residuals themselves."""


def gram(z: Floats, centred: bool, k: int) -> Decomposition:
    """Find the first k components.

    A Gram matrix squares the condition number. Components whose eigenvalue is below 1e-7 of the largest
    are therefore found from the residual matrix of those above, by its own Gram matrix.

    Parameters
    ----------
    z : (n, p) float array
        Finite; not changed.
    centred : bool
    k : int
        How many.

    Raises
    ------
    ModelError
        Nothing varies, or there are fewer than k components.
    """
    n, p = z.shape
    freedom = n - 1 if centred else n
    product = z.T @ z if p <= n else z @ z.T
    total = float(np.trace(product))
    if total <= 0.0:
        raise nothing_varies(n, p)
    of_variables = product.diagonal().copy() if p <= n else None
    scores, loadings, singular = _leading(z, product, k)
    if len(singular) < k:
        scores, loadings, singular = _from_residuals(z, k, scores, loadings, singular)
    if total - float(np.sum(singular**2)) < CLEAN * total:
        q_rest, thetas = leftover(z, scores, loadings, freedom)
    else:
        q_rest = residual_squares(z, scores, loadings)
        directions = loadings if p <= n else scores / singular
        thetas = (float(q_rest.sum()) / freedom, *_deflated(product, directions, singular**2, freedom))
    found = first_components("gram", z, centred, scores, loadings, singular**2, total, (q_rest, thetas))
    return replace(found, variable_squares=of_variables)


def _leading(z: Floats, product: Floats, k: int) -> tuple[Floats, Floats, Floats]:
    """Up to k components: those that the Gram matrix still knows."""
    vectors = leading_eigenvectors(product, min(k, len(product)))
    scores, loadings, singular = _polished(z, vectors, k)
    known = int(np.count_nonzero(singular**2 >= LOST * singular[0] ** 2))
    return scores[:, :known], loadings[:, :known], singular[:known]


def _from_residuals(
    z: Floats, k: int, scores: Floats, loadings: Floats, singular: Floats
) -> tuple[Floats, Floats, Floats]:
    """The components that are still missing, each time from what those found so far leave over."""
    nothing = rank_threshold(len(z), z.shape[1], float(singular[0]))
    while len(singular) < k:
        away = z - scores @ loadings.T
        away -= (away @ loadings) @ loadings.T  # once more: rounding is as large as what is looked for
        product = away.T @ away if z.shape[1] <= z.shape[0] else away @ away.T
        _, more, sizes = _leading(away, product, k - len(singular))
        there = sizes > nothing
        if not there.any():
            raise too_many(k, len(singular))
        more = more[:, there]
        scores = np.hstack([scores, z @ more])
        loadings = np.hstack([loadings, more])
        singular = np.append(singular, sizes[there])
    return scores, loadings, singular


def _polished(z: Floats, vectors: Floats, k: int) -> tuple[Floats, Floats, Floats]:
    """Scores, loadings and singular values from a small decomposition of the data on the vectors."""
    n, p = z.shape
    side = z @ vectors if p <= n else z.T @ vectors
    left, singular, right = _small_svd(side)
    if p <= n:
        loadings = vectors @ right[:k].T
        scores = left[:, :k] * singular[:k]
    else:
        loadings = left[:, :k]
        scores = (vectors @ right[:k].T) * singular[:k]
    signs = column_signs(loadings)
    return scores * signs, loadings * signs, singular[:k]


def _small_svd(side: Floats) -> tuple[Floats, Floats, Floats]:
    """Singular value decomposition of a tall matrix of few columns.

    By its own Gram matrix where that keeps ten digits (a fifth of the time), else as it is.
    """
    values, turned = np.linalg.eigh(side.T @ side)
    values, turned = values[::-1], turned[:, ::-1]
    if values[-1] > WELL_CONDITIONED * values[0]:
        singular = np.sqrt(values)
        return (side @ turned) / singular, singular, turned.T
    found: tuple[Floats, Floats, Floats] = np.linalg.svd(side, full_matrices=False)
    return found


def _deflated(product: Floats, vectors: Floats, values: Floats, freedom: int) -> tuple[float, float]:
    """θ2 and θ3 of the Gram matrix without its leading pairs; the matrix is overwritten."""
    product -= (vectors * values) @ vectors.T
    product /= freedom
    return float(np.einsum("ij,ij->", product, product)), cubes_of(product)


def gram_loadings(z: Floats, k: int) -> Floats:
    """The first k loadings, or those of them that the Gram matrix knows. (n, p) → (p, up to k)."""
    n, p = z.shape
    product = z.T @ z if p <= n else z @ z.T
    if float(np.trace(product)) <= 0.0:
        raise nothing_varies(n, p)
    return _leading(z, product, k)[1]
