"""Squares of what a model gets wrong about samples that it has not seen, variable by variable."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from scutcher.core.arrays import Floats

SURE = 1e-6  # share of the whole square that a difference of squares still gives to nine digits
SINGULAR = 1e-8
"""A block whose variables are so nearly the model's own cannot be predicted from the others."""


def predicted_squares(z: Floats, loadings: Floats, block: int) -> Floats:
    """`Σ r_ij²` with 1…k components, each value predicted from the other variables of its sample.

    For a block B of variables left out together the residual is `(I − P_B P_Bᵀ)⁻¹ e_B`, which is that of
    the least-squares scores found from the other variables; no refit is needed.

    Parameters
    ----------
    z : (m, p) float array
        Left-out samples, in the training segment's centring and scaling.
    loadings : (p, k) float array
        Orthonormal, of the training segment.
    block : int
        Variables that are left out together, from the first on; the last block may be shorter.

    Returns
    -------
    (k,) float array
        NaN where a block cannot be predicted: the largest eigenvalue of `P_Bᵀ P_B` is above 1 − 1e-8.

    References
    ----------
    Bro, Kjeldahl, Smilde & Kiers, Anal. Bioanal. Chem. 390 (2008) 1241–1251.
    """
    if block == 1:
        return _single(z, loadings)
    found = _blocks(z, loadings, block)
    known = found[np.isfinite(found)]
    if known.size and known.min() < SURE * np.einsum("ij,ij->", z, z):
        return _blocks_anew(z, loadings, block, len(known))
    return found


def rowwise_squares(z: Floats, loadings: Floats) -> Floats:
    """`Σ e_ij²` with 1…k components where each left-out row helps to predict itself: too good. (k,)"""
    scores = z @ loadings
    total = float(np.einsum("ij,ij->", z, z))
    found: Floats = total - np.cumsum(np.einsum("ij,ij->j", scores, scores))
    if found.size and found[-1] < SURE * total:
        found = np.array([np.einsum("ij,ij->", left, left) for left in _left_over(z, loadings)])
    return found


def _left_over(z: Floats, loadings: Floats) -> Iterator[Floats]:
    """The residuals with 1…k components, one after the other in the same memory."""
    scores, left = z @ loadings, z.copy()
    for a in range(loadings.shape[1]):
        left -= np.outer(scores[:, a], loadings[:, a])
        yield left


def _single(z: Floats, loadings: Floats) -> Floats:
    leverage = np.zeros(len(loadings))
    found = np.full(loadings.shape[1], np.nan)
    for a, left in enumerate(_left_over(z, loadings)):
        leverage += loadings[:, a] ** 2
        if leverage.max() > 1.0 - SINGULAR:
            break
        squares = np.einsum("ij,ij->j", left, left)
        found[a] = float(np.sum(squares / (1.0 - leverage) ** 2))
    return found


def _parts(p: int, block: int) -> list[slice]:
    return [slice(start, min(start + block, p)) for start in range(0, p, block)]


def _blocks(z: Floats, loadings: Floats, block: int) -> Floats:
    """With y the scores from the other variables, `r_B = z_B − P_B y` and `A y = d`, where `d = t − P_Bᵀz_B`
    and `A = I − P_BᵀP_B`.

    Over all samples `Σ r_B² = Σ z_B² − Σ (2 yᵀs − yᵀG y)` with `s = P_Bᵀz_B`, `G = P_BᵀP_B = I − A`. With F
    the inverse of A's lower triangular factor, `A⁻¹ = FᵀF`, that is `2 (F d)·(F s) + |F d|² − |Fᵀ F d|²`. Of
    the first k components F has the first k rows and columns of that of all: sums of products over the
    samples are made once and added up.
    """
    p, most = loadings.shape
    parts = _parts(p, block)
    inner = np.stack([loadings[part].T @ loadings[part] for part in parts])  # G, (b, k, k)
    there = _predictable(inner)
    factor = np.linalg.inv(np.linalg.cholesky(np.eye(there) - inner[:, :there, :there]))
    scores = (z @ loadings[:, :there]).T  # (k, m)
    single, pairs = np.zeros(there), np.zeros((there, there))
    for part, lower in zip(parts, factor, strict=True):
        seen = loadings[part, :there].T @ z[:, part].T  # s, (k, m)
        turned = lower @ (scores - seen)  # F d
        single += np.einsum("ij,ij->i", turned, 2.0 * (lower @ seen) + turned)
        pairs += (lower @ lower.T) * (turned @ turned.T)
    gained = single.cumsum() - pairs.cumsum(axis=0).cumsum(axis=1).diagonal()
    found = np.full(most, np.nan)
    found[:there] = float(np.einsum("ij,ij->", z, z)) - gained
    return found


def _predictable(inner: Floats) -> int:
    """With how many components every block can be predicted; fewer never have a larger eigenvalue."""
    k: int = inner.shape[1]
    while k and np.linalg.eigvalsh(inner[:, :k, :k])[:, -1].max() > 1.0 - SINGULAR:
        k -= 1
    return k


def _blocks_anew(z: Floats, loadings: Floats, block: int, most: int) -> Floats:
    """The same with the first `most` components, where a difference loses what is left.

    With `u = P_Bᵀ e_B` it is a sum of positive parts: `Σ r_B² = Σ e_B² + uᵀ(2 M + M G M) u`, `M = (I − G)⁻¹`.
    """
    found = np.full(loadings.shape[1], np.nan)
    for k, left in enumerate(_left_over(z, loadings[:, :most]), 1):
        found[k - 1] = np.einsum("ij,ij->", left, left)
        for part in _parts(len(loadings), block):
            p_b = loadings[part, :k]
            gram, u = p_b.T @ p_b, left[:, part] @ p_b  # (k, k), (m, k)
            solved = np.linalg.inv(np.eye(k) - gram)
            found[k - 1] += np.einsum(
                "mi,ij,mj->", u, 2.0 * solved + solved @ gram @ solved, u, optimize=True
            )
    return found
