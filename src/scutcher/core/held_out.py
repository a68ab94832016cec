"""Squares of what a model gets wrong about samples that it has not seen, variable by variable."""

from __future__ import annotations

import numpy as np

from scutcher.core.arrays import Floats

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
    return _single(z, loadings) if block == 1 else _blocks(z, loadings, block)


def rowwise_squares(z: Floats, loadings: Floats) -> Floats:
    """`Σ e_ij²` with 1…k components where each left-out row helps to predict itself: too good. (k,)"""
    scores = z @ loadings
    total = float(np.einsum("ij,ij->", z, z))
    found: Floats = total - np.cumsum(np.einsum("ij,ij->j", scores, scores))
    return found


def _single(z: Floats, loadings: Floats) -> Floats:
    scores = z @ loadings
    left, leverage = z.copy(), np.zeros(len(loadings))
    found = np.full(loadings.shape[1], np.nan)
    for a in range(loadings.shape[1]):
        left -= np.outer(scores[:, a], loadings[:, a])
        leverage += loadings[:, a] ** 2
        if leverage.max() > 1.0 - SINGULAR:
            break
        squares = np.einsum("ij,ij->j", left, left)
        found[a] = float(np.sum(squares / (1.0 - leverage) ** 2))
    return found


def _blocks(z: Floats, loadings: Floats, block: int) -> Floats:
    """With y the scores from the other variables, `r_B = z_B − P_B y` and `(I − P_BᵀP_B) y = t − P_Bᵀz_B`."""
    p, most = loadings.shape
    starts = range(0, p, block)
    parts = [slice(start, min(start + block, p)) for start in starts]
    inner = np.stack([loadings[part].T @ loadings[part] for part in parts])  # (b, k, k)
    seen = np.stack([loadings[part].T @ z[:, part].T for part in parts])  # (b, k, m)
    scores = (z @ loadings).T  # (k, m)
    total = float(np.einsum("ij,ij->", z, z))
    found = np.full(most, np.nan)
    for k in range(1, most + 1):
        grams = inner[:, :k, :k]
        if np.linalg.eigvalsh(grams)[:, -1].max() > 1.0 - SINGULAR:
            break
        y = np.linalg.solve(np.eye(k) - grams, scores[:k] - seen[:, :k])  # (b, k, m)
        gained = np.einsum("bkm,bkm->", y, 2.0 * seen[:, :k] - grams @ y)
        found[k - 1] = total - float(gained)
    return found
