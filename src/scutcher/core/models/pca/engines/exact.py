"""All components by full singular value decomposition."""

from __future__ import annotations

import numpy as np

from scutcher.core.arrays import Floats
from scutcher.core.models.pca.decomposition import (
    Decomposition,
    check_total,
    column_signs,
    nothing_varies,
)
from scutcher.core.numeric.matrix_rank import rank_threshold, structural_rank


def exact(z: Floats, centred: bool) -> Decomposition:
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
        With all r components.

    Raises
    ------
    ModelError
        Nothing varies.
    """
    n, p = z.shape
    check_total(float(np.einsum("ij,ij->", z, z)), z)
    if n < p:  # the same decomposition, faster by a fifth from the tall side
        right_t, singular, left_t = np.linalg.svd(z.T, full_matrices=False)
        left, right = left_t.T, right_t.T
    else:
        left, singular, right = np.linalg.svd(z, full_matrices=False)
    above = np.count_nonzero(singular > rank_threshold(n, p, float(singular[0]) if singular.size else 0.0))
    rank = min(int(above), structural_rank(n, p, centred))
    if rank == 0:
        raise nothing_varies(n, p)
    freedom = n - 1 if centred else n
    loadings = right[:rank].T
    signs = column_signs(loadings)
    return Decomposition(
        scores=left[:, :rank] * (singular[:rank] * signs),
        loadings=loadings * signs,
        eigenvalues=singular[:rank] ** 2 / freedom,
        total_variance=float(np.sum(singular**2) / freedom),
        freedom=freedom,
        engine="exact",
        q_rest=np.zeros(n),
        theta_rest=(0.0, 0.0, 0.0),
        find_all=lambda: singular[:rank] ** 2 / freedom,
        most=rank,
    )
