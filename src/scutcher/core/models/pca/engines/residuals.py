"""What the components leave over: Q of each sample, and the sums of powers that its limit needs."""

from __future__ import annotations

import numpy as np

from scutcher.core.arrays import Floats, Reals
from scutcher.core.numeric.threads import SMALL, SharedPass, in_parts
from scutcher.core.progress import Watch
from scutcher.core.scaling.scaled_matrix import Scaled

SURE = 1e-4  # share of a row's square that a difference of squares gives to ten digits and more


def residual_squares(
    z: Scaled, squares: Floats, scores: Floats, loadings: Floats, watch: Watch | None = None
) -> Floats:
    """`Σ e_ij²` of each row of `E = Z − T Pᵀ`, (n,), from the squares of the rows of Z.

    As a difference of squares where that is sure to ten digits, from the residuals themselves elsewhere.
    """
    found: Floats = squares - np.einsum("ij,ij->i", scores, scores)
    unsure = np.flatnonzero(found < SURE * squares)

    def anew(part: slice, own: None) -> None:
        rows = unsure[part]
        away = z.rows(rows)
        away = away - scores[rows] @ loadings.T
        found[rows] = np.einsum("ij,ij->i", away, away)

    in_parts(anew, (len(unsure), z.shape[1]), lambda: None, watch)
    return found


def cubes_of(product: Reals, watch: Watch | None = None) -> float:
    """`tr(A³)` of a symmetric matrix: the sum of `A ∘ A²`; of a large one from the upper half of both."""
    if len(product) ** 3 <= SMALL:
        return twice_beside(product, product @ product)
    with cubes_behind(product, watch) as shared:
        return float(sum(shared.results()))


def cubes_behind(product: Reals, watch: Watch | None = None) -> SharedPass[Floats]:
    """The parts of `tr(A³)` of a symmetric matrix, which another thread begins to compute."""

    def add(part: slice, own: Floats) -> None:
        own += twice_beside(product[part] @ product[:, part.start :], product[part, part.start :])

    return SharedPass(add, product.shape, lambda: np.zeros(()), watch)


def twice_beside(one: Reals, other: Reals) -> float:
    """`Σ a b` over some rows of two symmetric matrices from the diagonal on, (m, l) each, m ≤ l.

    What is beside the block on the diagonal counts twice: it is there a second time in the rows below.
    """
    inside = len(one)
    on = np.einsum("ij,ij->", one[:, :inside], other[:, :inside], dtype=float)
    return float(on + 2.0 * np.einsum("ij,ij->", one[:, inside:], other[:, inside:], dtype=float))


def leftover(
    z: Floats, scores: Floats, loadings: Floats, freedom: int
) -> tuple[Floats, tuple[float, float, float]]:
    """Q of each sample, and θ1, θ2, θ3, from the residual matrix and its own smaller Gram matrix."""
    away = z - scores @ loadings.T
    q_rest: Floats = np.einsum("ij,ij->i", away, away)
    product = Scaled(away).gram(double=True).whole() / freedom
    square = float(np.einsum("ij,ij->", product, product))
    return q_rest, (float(q_rest.sum()) / freedom, square, cubes_of(product))
