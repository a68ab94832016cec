"""The leading components from a random sketch of the data."""

from __future__ import annotations

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

SPARE, POWERS = 12, 6


def randomised(z: Floats, centred: bool, k: int, seed: int, watch: Watch | None = None) -> Decomposition:
    """Find the first k components in the space that a few random mixtures of the variables reach.

    The eigenvalues are right to about `(λ_(k+13) / λ_a)^13`, relative: exact where the data have a clear
    end of structure; on pure noise the last ones are right to about 1e-2.

    Parameters
    ----------
    z : (n, p) float array
        Finite; not changed.
    centred : bool
    k : int
    seed : int
        Of the mixtures.
    watch : Watch, optional
        Asked between the power iterations whether to go on.

    Raises
    ------
    ModelError
        Nothing varies, or there are fewer than k components.
    Stopped

    References
    ----------
    Halko, Martinsson & Tropp, SIAM Review 53 (2011) 217–288, with 12 spare mixtures and 6 power
    iterations, orthonormalised at each.
    """
    n, p = z.shape
    total = float(np.einsum("ij,ij->", z, z))
    check_total(total, z)
    wide = min(k + SPARE, n, p)
    space = np.linalg.qr(z @ np.random.default_rng(seed).normal(size=(p, wide)))[0]
    for _ in range(POWERS):
        tell(watch, 0.0)
        space = np.linalg.qr(z.T @ space)[0]
        space = np.linalg.qr(z @ space)[0]
    _, singular, right = np.linalg.svd(space.T @ z, full_matrices=False)
    there = int(np.count_nonzero(singular > rank_threshold(n, p, float(singular[0]))))
    if centred:
        there = min(there, n - 1)
    if there < k:
        raise too_many(k, there)
    loadings = right[:k].T
    signs = column_signs(loadings)
    loadings = loadings * signs
    scores = z @ loadings
    freedom = n - 1 if centred else n
    left_over = leftover(z, scores, loadings, freedom)
    return first_components(
        "randomised", Scaled(z), centred, scores, loadings, singular[:k] ** 2, total, left_over
    )
