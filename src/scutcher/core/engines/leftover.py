"""What the components leave over: Q of each sample, and the sums of powers that its limit needs."""

from __future__ import annotations

import numpy as np

from scutcher.core.arrays import Floats
from scutcher.core.threads import in_halves

CELLS_AT_ONCE = 250_000  # a part of the rows that stays in the processor's cache
SURE = 1e-4  # share of a row's square that a difference of squares gives to ten digits and more


def residual_squares(z: Floats, scores: Floats, loadings: Floats) -> Floats:
    """`Σ e_ij²` of each row of `E = Z − T Pᵀ`, (n,).

    As a difference of squares where that is sure to ten digits, from the residuals themselves elsewhere.
    """
    squares = np.empty(len(z))
    in_halves(lambda part: np.einsum("ij,ij->i", z[part], z[part], out=squares[part]), len(z), z.size)
    found: Floats = squares - np.einsum("ij,ij->i", scores, scores)
    unsure = np.flatnonzero(found < SURE * squares)
    rows = max(1, CELLS_AT_ONCE // z.shape[1])
    for start in range(0, len(unsure), rows):
        part = unsure[start : start + rows]
        away = z[part] - scores[part] @ loadings.T
        found[part] = np.einsum("ij,ij->i", away, away)
    return found


def cubes_of(product: Floats) -> float:
    """`tr(A³)` of a symmetric matrix."""
    return float(np.einsum("ij,ij->", product, product @ product.T))  # BLAS knows that this is symmetric


def leftover(
    z: Floats, scores: Floats, loadings: Floats, freedom: int
) -> tuple[Floats, tuple[float, float, float]]:
    """Q of each sample, and θ1, θ2, θ3, from the residual matrix and its own smaller Gram matrix."""
    away = z - scores @ loadings.T
    n, p = away.shape
    q_rest: Floats = np.einsum("ij,ij->i", away, away)
    product = away.T @ away if p <= n else away @ away.T
    product /= freedom
    square = float(np.einsum("ij,ij->", product, product))
    return q_rest, (float(q_rest.sum()) / freedom, square, cubes_of(product))
