"""Components of a matrix: scores, loadings and eigenvalues, by full singular value decomposition."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from scutcher.core.arrays import Floats
from scutcher.core.errors import ModelError


@dataclass(frozen=True, eq=False)
class Decomposition:
    """`Z = T Pᵀ`, all r components.

    Attributes
    ----------
    scores : (n, r) float array
        T = Z P, in the unit of Z.
    loadings : (p, r) float array
        P, orthonormal columns; the element of largest magnitude of each is positive unless `agree_with`
        turned it.
    eigenvalues : (r,) float array
        `t_aᵀ t_a / freedom`, falling.
    total_variance : float
        `trace(ZᵀZ) / freedom`.
    freedom : int
        n − 1 when the data are centred, n when they are not.
    engine : str
        What computed it.
    """

    scores: Floats
    loadings: Floats
    eigenvalues: Floats
    total_variance: float
    freedom: int
    engine: str

    @property
    def rank(self) -> int:
        """r, the most components there can be."""
        return len(self.eigenvalues)


def decompose(z: Floats, centred: bool) -> Decomposition:
    """Find all components of a treated, centred and scaled matrix.

    Parameters
    ----------
    z : (n, p) float array
        Finite; not changed.
    centred : bool
        Whether each column was centred, by mean or by median.

    Returns
    -------
    Decomposition
        With r the number of singular values above `max(n, p)·ε·σ₁`, at most `min(n − 1, p)` when
        centred and `min(n, p)` otherwise.

    Raises
    ------
    ModelError
        Nothing varies.
    """
    n, p = z.shape
    if n < p:  # the same decomposition, faster by a fifth from the tall side
        right_t, singular, left_t = np.linalg.svd(z.T, full_matrices=False)
        left, right = left_t.T, right_t.T
    else:
        left, singular, right = np.linalg.svd(z, full_matrices=False)
    most = min(n - 1, p) if centred else min(n, p)
    threshold = max(n, p) * np.finfo(np.float64).eps * (singular[0] if singular.size else 0.0)
    rank = min(int(np.count_nonzero(singular > threshold)), most)
    if rank == 0:
        raise ModelError(
            f"None of the {p} variables varies over the {n} samples after treatment.",
            "Check the treatments, or bring back samples that differ.",
        )
    freedom = n - 1 if centred else n
    signs = _signs(right[:rank])
    return Decomposition(
        scores=left[:, :rank] * (singular[:rank] * signs),
        loadings=(right[:rank] * signs[:, np.newaxis]).T.copy(),
        eigenvalues=singular[:rank] ** 2 / freedom,
        total_variance=float(np.sum(singular**2) / freedom),
        freedom=freedom,
        engine="exact",
    )


def _signs(rows: Floats) -> Floats:
    """+1 or −1 for each row, so that its largest-magnitude element becomes positive."""
    largest = np.abs(rows).argmax(axis=1)
    signs: Floats = np.where(rows[np.arange(len(rows)), largest] < 0.0, -1.0, 1.0)
    return signs


def agree_with(fresh: Decomposition, earlier: Floats) -> Decomposition:
    """Turn each component to agree with an earlier model on screen, so that plots never mirror.

    Parameters
    ----------
    fresh : Decomposition
    earlier : (p, m) float array
        Loadings of the earlier model over the same variables.

    Returns
    -------
    Decomposition
        Each of the first m components has a positive inner product with the earlier one it resembles
        most.
    """
    leading = min(fresh.rank, earlier.shape[1])
    products = fresh.loadings[:, :leading].T @ earlier
    nearest = np.abs(products).argmax(axis=1)
    signs = np.ones(fresh.rank)
    signs[:leading][products[np.arange(leading), nearest] < 0.0] = -1.0
    if (signs > 0.0).all():
        return fresh
    return replace(fresh, scores=fresh.scores * signs, loadings=fresh.loadings * signs)
