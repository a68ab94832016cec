"""A component model at k components: shares, distances and limits of the training samples."""

from __future__ import annotations

import numpy as np

from scutcher.core.arrays import Booleans, Floats
from scutcher.core.distances.joint_distance import JointScale, fit_joint_scale
from scutcher.core.distances.limits import Limit, q_limit, t2_limit_training
from scutcher.core.frozen import frozen
from scutcher.core.models.pca.decomposition import Decomposition, too_many
from scutcher.core.recipes.recipe import LimitSettings
from scutcher.core.scaling.scaled_matrix import Scaled, as_scaled

DEFAULT_COMPONENTS = 4


@frozen(eq=False)
class ComponentModel:
    """`Z = T Pᵀ + E` with the first k components.

    Attributes
    ----------
    decomposition : Decomposition
        At least the components kept.
    k : int
        How many are kept.
    t2, q : (n,) float arrays
        Hotelling's T² (dimensionless) and Q (unit of Z squared) of the training samples.
    joint : (n,) float array or None
        The joint distance, where it is defined.
    t2_limit, q_limit : Limit
        For training samples.
    joint_scale, joint_limit : JointScale, Limit or None
    """

    decomposition: Decomposition
    k: int
    t2: Floats
    q: Floats
    joint: Floats | None
    t2_limit: Limit
    q_limit: Limit
    joint_scale: JointScale | None
    joint_limit: Limit | None

    @property
    def scores(self) -> Floats:
        """T, (n, k)."""
        return self.decomposition.scores[:, : self.k]

    @property
    def loadings(self) -> Floats:
        """P, (p, k)."""
        return self.decomposition.loadings[:, : self.k]

    @property
    def eigenvalues(self) -> Floats:
        """λ of the components kept, (k,)."""
        return self.decomposition.eigenvalues[: self.k]

    def reconstruction(self) -> Floats:
        """T Pᵀ, (n, p), in the unit of Z."""
        return self.scores @ self.loadings.T

    def past(self, distances: Floats | None, limit: Limit | None) -> Booleans | None:
        """Which samples are past a limit; None where there is no limit."""
        if distances is None or limit is None or limit.value is None:
            return None
        past: Booleans = distances > limit.value
        return past


def explained(decomposition: Decomposition) -> Floats:
    """Share of the total variance of each component computed, (m,), fractions of one."""
    if decomposition.known_shares is not None:
        return decomposition.known_shares
    return decomposition.eigenvalues / decomposition.total_variance


def explained_by_variable(decomposition: Decomposition, z: Floats | Scaled, k: int) -> Floats:
    """`1 − Σ e_ij² / Σ z_ij²` of each variable with k components.

    Returns
    -------
    (p,) float array
        Fractions of one; NaN for a variable with no variance.
    """
    if decomposition.known is not None:
        return _explained_of_known(decomposition, as_scaled(z).whole, decomposition.known, k)
    totals = decomposition.variable_squares
    if totals is None:
        whole = as_scaled(z).whole
        totals = np.einsum("ij,ij->j", whole, whole)
    fitted = decomposition.loadings[:, :k] ** 2 @ (decomposition.eigenvalues[:k] * decomposition.freedom)
    shares = np.full(len(totals), np.nan)
    np.divide(fitted, totals, out=shares, where=totals > 0.0)
    return shares


def _explained_of_known(decomposition: Decomposition, z: Floats, known: Booleans, k: int) -> Floats:
    away = z - decomposition.scores[:, :k] @ decomposition.loadings[:, :k].T
    totals = np.where(known, z, 0.0) ** 2
    left: Floats = np.where(known, away, 0.0) ** 2
    shares = np.full(z.shape[1], np.nan)
    sums = totals.sum(axis=0)
    np.divide(sums - left.sum(axis=0), sums, out=shares, where=sums > 0.0)
    return shares


def keep(decomposition: Decomposition, k: int, limits: LimitSettings) -> ComponentModel:
    """Keep k components and measure every training sample against them.

    Parameters
    ----------
    decomposition : Decomposition
        Of the training set, at least k components of it.
    k : int
        From 1 to the number of components computed.
    limits : LimitSettings
        Level and methods.

    Raises
    ------
    ModelError
        It is not.
    """
    if not 1 <= k <= decomposition.computed:
        raise too_many(k, decomposition.computed)
    scores = decomposition.scores[:, :k]
    n = len(scores)
    t2 = (scores**2 / decomposition.eigenvalues[:k]).sum(axis=1)
    q = decomposition.q_beyond(k)
    leverages = t2 / (n - 1) + 1.0 / n
    scale = fit_joint_scale(leverages, q, limits.joint)
    return ComponentModel(
        decomposition=decomposition,
        k=k,
        t2=t2,
        q=q,
        joint=None if scale is None else scale.distance(leverages, q),
        t2_limit=t2_limit_training(n, k, limits.level),
        q_limit=q_limit(decomposition.thetas(k), q, limits.level, limits.q, decomposition.total_variance),
        joint_scale=scale,
        joint_limit=None if scale is None else scale.limit(limits.level),
    )
