"""The leading components by way of the smaller Gram matrix, their vectors polished on the data."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import TypeVar

import numpy as np

from scutcher.core.arrays import Booleans, Floats
from scutcher.core.frozen import frozen
from scutcher.core.models.pca.decomposition import (
    Decomposition,
    check_total,
    column_signs,
    first_components,
    too_many,
)
from scutcher.core.models.pca.engines.beyond import Beyond
from scutcher.core.models.pca.engines.leading import Shown, leading_eigenvectors
from scutcher.core.models.pca.engines.residuals import leftover, residual_squares
from scutcher.core.numeric.matrix_rank import rank_threshold
from scutcher.core.numeric.threads import one_thread
from scutcher.core.progress import Watch
from scutcher.core.scaling.gram_matrix import GramMatrix
from scutcher.core.scaling.scaled_matrix import Scaled, as_scaled

T = TypeVar("T")

LOST = 1e-7
"""Below this share of its largest eigenvalue a Gram matrix has lost what is wanted."""

WELL_CONDITIONED = 1e-5
"""Above this share a second Gram matrix loses nothing that matters."""

NEARLY_APART = 0.1
"""Cosine between columns up to which those of one size make a Gram matrix that loses nothing."""

NEAR = 3e-5
"""What may be beside a pair that was found that way, as a share of the gap to those that were not found."""

CLEAN = 1e-7
"""Below this share of the total, what is left over is computed from the residuals themselves."""


@one_thread()
def gram(matrix: Floats | Scaled, centred: bool, k: int, watch: Watch | None = None) -> Decomposition:
    """Find the first k components.

    A Gram matrix squares the condition number. Components whose eigenvalue is below 1e-7 of the largest
    are therefore found from the residual matrix of those above, by its own Gram matrix.

    Of large data much of the matrix is in single precision. Vectors are looked for there and polished on the
    data in double: eigenvalues are right to 1e-11, the span of noise to about 1e-6 where its neighbours are
    some thousandths away, that of what stands out to 1e-11. Where they are not near enough, it is computed
    again in double.

    Parameters
    ----------
    matrix : (n, p) float array or Scaled
        Finite; not changed.
    centred : bool
    k : int
        How many.
    watch : Watch, optional
        Asked now and then whether to go on.

    Raises
    ------
    ModelError
        Nothing varies, or there are fewer than k components.
    Stopped
    """
    z = as_scaled(matrix)
    return _exact_enough(z, lambda product: _decomposed(z, centred, k, product, watch), watch)


def _exact_enough(z: Scaled, find: Callable[[GramMatrix], T | None], watch: Watch | None) -> T:
    """What is found by way of the Gram matrix, or else of the one that is all in double precision."""
    found = find(z.gram(watch))
    if found is None:
        found = find(z.gram(watch, double=True))
    assert found is not None  # double precision always is enough
    return found


def _decomposed(
    z: Scaled, centred: bool, k: int, product: GramMatrix, watch: Watch | None
) -> Decomposition | None:
    """The components by way of a Gram matrix; None where single precision was not enough for them."""
    n, p = z.shape
    freedom = n - 1 if centred else n
    of_variables = product.diagonal().copy()
    total = float(of_variables.sum())
    check_total(total, z)

    with Beyond(product, k, watch) as beyond:
        found = _leading(z, product, k, watch, beyond.begin)
        if found is None:
            return None
        if len(found.singular) < k:
            found = _from_residuals(z.whole, k, found, watch)
        scores, loadings, singular = found.scores, found.loadings, found.singular
        if total - float(np.sum(singular**2)) < CLEAN * total:
            q_rest, thetas = leftover(z.whole, scores, loadings, freedom)
        else:
            q_rest = residual_squares(z, found.squares, scores, loadings, watch)
            squares, cubes = beyond.sums(loadings if p <= n else scores / singular, singular**2)
            thetas = float(q_rest.sum()) / freedom, squares / freedom**2, cubes / freedom**3
    whole = first_components("gram", z, centred, scores, loadings, singular**2, total, (q_rest, thetas))
    return replace(whole, variable_squares=of_variables if p <= n else None)


@frozen(eq=False)
class _Found:
    """Components so far: scores (n, m), loadings (p, m), singular values (m,); Σ z² of each row (n,).

    Where that was checked, `away` (m,) is how far the Gram matrix takes each vector from its own direction.
    """

    scores: Floats
    loadings: Floats
    singular: Floats
    squares: Floats
    away: Floats

    def take(self, which: Booleans | slice) -> _Found:
        """Some of the components."""
        columns = self.scores[:, which], self.loadings[:, which], self.singular[which]
        return _Found(*columns, self.squares, self.away[which])


def _leading(
    z: Scaled,
    product: GramMatrix,
    k: int,
    watch: Watch | None = None,
    shown: Shown | None = None,
) -> _Found | None:
    """Up to k components: those that the Gram matrix still knows; None where they are not exact enough."""
    vectors = leading_eigenvectors(product, min(k, len(product)), watch=watch, shown=shown)
    if not product.single:
        return _known(_polished(z, vectors, k, watch))
    found = _polished(z, vectors, vectors.shape[1], watch, checks=True)
    known = _known(found.take(slice(k)))
    spare = known.singular**2 - found.singular[-1] ** 2
    enough = vectors.shape[1] == len(product) or bool((known.away <= NEAR * spare).all())
    return known if enough else None


def _known(found: _Found) -> _Found:
    """Those whose eigenvalue the Gram matrix has not lost."""
    known = int(np.count_nonzero(found.singular**2 >= LOST * found.singular[0] ** 2))
    return found.take(slice(known))


def _from_residuals(z: Floats, k: int, found: _Found, watch: Watch | None) -> _Found:
    """The components that are still missing, each time from what those found so far leave over."""
    nothing = rank_threshold(len(z), z.shape[1], float(found.singular[0]))
    while len(found.singular) < k:
        away = z - found.scores @ found.loadings.T
        # once more: rounding is as large as what is looked for
        away -= (away @ found.loadings) @ found.loadings.T
        left = Scaled(away)
        more = _leading(left, left.gram(watch, double=True), k - len(found.singular), watch)
        assert more is not None  # as above
        there = more.singular > nothing
        if not there.any():
            raise too_many(k, len(found.singular))
        more = more.take(there)
        found = _Found(
            np.hstack([found.scores, z @ more.loadings]),
            np.hstack([found.loadings, more.loadings]),
            np.append(found.singular, more.singular),
            found.squares,
            np.append(found.away, more.away),
        )
    return found


def _polished(
    z: Scaled, vectors: Floats, k: int, watch: Watch | None = None, *, checks: bool = False
) -> _Found:
    """Scores, loadings and singular values from a small decomposition of the data on the vectors."""
    n, p = z.shape
    if p <= n:
        side, squares, back = z.onto(vectors, watch, back=checks)
    else:
        side, squares = z.whole.T @ vectors, np.einsum("ij,ij->i", z.whole, z.whole)
        back = z.whole @ side if checks else np.zeros_like(vectors)
    left, singular, right = _small_svd(side)
    turned = vectors @ right[:k].T
    away = np.linalg.norm(back @ right[:k].T - turned * singular[:k] ** 2, axis=0) if checks else np.zeros(k)
    if p <= n:
        loadings, scores = turned, left[:, :k] * singular[:k]
    else:
        loadings, scores = left[:, :k], turned * singular[:k]
    signs = column_signs(loadings)
    return _Found(scores * signs, loadings * signs, singular[:k], squares, away)


def _small_svd(side: Floats) -> tuple[Floats, Floats, Floats]:
    """Singular value decomposition of a tall matrix of few columns.

    By its own Gram matrix where that keeps ten digits (a fifth of the time); where its columns are of very
    different size, but nearly at right angles, as images of nearly all eigenvectors are, by that of the
    columns brought to one size; else as it is.
    """
    product = side.T @ side
    values, turned = np.linalg.eigh(product)
    values, turned = values[::-1], turned[:, ::-1]
    if values[-1] > WELL_CONDITIONED * values[0]:
        singular = np.sqrt(values)
        return (side @ turned) / singular, singular, turned.T
    found: tuple[Floats, Floats, Floats]
    sizes = np.sqrt(product.diagonal())
    alike = product / np.outer(sizes, sizes) if sizes.all() else np.ones_like(product)
    if np.abs(alike - np.eye(len(alike))).max() > NEARLY_APART:
        found = np.linalg.svd(side, full_matrices=False)
        return found
    scaled = side / sizes
    upper = np.linalg.cholesky(scaled.T @ scaled).T
    left, singular, right = np.linalg.svd(upper * sizes)
    return scaled @ np.linalg.solve(upper, left), singular, right


@one_thread()
def gram_loadings(z: Scaled, k: int, watch: Watch | None = None) -> Floats:
    """The first k loadings, or those of them that the Gram matrix knows. (n, p) → (p, up to k)."""

    def find(product: GramMatrix) -> _Found | None:
        check_total(float(product.diagonal().sum()), z)
        return _leading(z, product, k, watch)

    return _exact_enough(z, find, watch).loadings
