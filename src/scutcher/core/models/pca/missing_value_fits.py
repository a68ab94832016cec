"""Models around gaps: NIPALS over the known values, or gaps filled again and again by the model itself."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from scutcher.core.arrays import Booleans, Floats
from scutcher.core.data.axis import Axis
from scutcher.core.frozen import frozen
from scutcher.core.models.pca.decomposition import Decomposition
from scutcher.core.models.pca.engines.choice import decompose
from scutcher.core.models.pca.engines.nipals import nipals
from scutcher.core.progress import Watch, tell
from scutcher.core.recipes.recipe import ModelSettings, ScaleSettings
from scutcher.core.scaling.scaler import Scaler, fit_scaler

ROUNDS, SETTLED = 500, 1e-9


@frozen(eq=False)
class AroundGaps:
    """A model of a matrix with gaps.

    Attributes
    ----------
    scaler : Scaler
    z : (n, p) float array
        Centred and scaled; the gaps hold what the model makes of them.
    decomposition : Decomposition
        Q is over the known values only.
    rounds : int
        Fillings that were needed; 0 for NIPALS.
    settled : bool
        Whether they came to rest.
    """

    scaler: Scaler
    z: Floats
    decomposition: Decomposition
    rounds: int
    settled: bool


def fit_around_gaps(
    values: Floats,
    axis: Axis,
    scaling: ScaleSettings,
    model: ModelSettings,
    k: int,
    watch: Watch | None = None,
) -> AroundGaps:
    """Fit k components to treated values with gaps.

    Parameters
    ----------
    values : (n, p) float array
        NaN marks a gap.
    scaling : ScaleSettings
        Learned from the known values (NIPALS), or from the filled ones, anew with each filling (EM).
    model : ModelSettings
        `gaps` is "nipals" or "em".
    k : int
    watch : Watch, optional
        Asked in each round whether to go on.

    Raises
    ------
    ModelError
        Nothing varies, or there are fewer than k components.
    Stopped

    References
    ----------
    Wold (1966), as in `engines.nipals`; Walczak & Massart, Chemometr. Intell. Lab. Syst. 58 (2001) 15–27.
    """
    gaps = np.isnan(values)
    scaler = fit_scaler(values, scaling, axis)
    if model.gaps == "nipals":
        z = scaler.apply(values)
        found = nipals(z, scaler.centred, k, model.tolerance, model.rounds, watch)
        z[gaps] = (found.scores @ found.loadings.T)[gaps]
        return AroundGaps(scaler, z, _of_known(found, z, ~gaps), 0, not found.unsettled)
    return _filled_by_model(values, gaps, axis, scaling, scaler, k, watch)


def _filled_by_model(
    values: Floats,
    gaps: Booleans,
    axis: Axis,
    scaling: ScaleSettings,
    scaler: Scaler,
    k: int,
    watch: Watch | None,
) -> AroundGaps:
    whole = np.where(gaps, np.nanmean(values, axis=0), values)
    size = float(np.nanstd(values)) or 1.0
    used, moved = 0, np.inf
    while moved > SETTLED * size and used < ROUNDS:
        used += 1
        tell(watch, 0.0)
        scaler = fit_scaler(whole, scaling, axis)
        z = scaler.apply(whole)
        found = decompose(z, scaler.centred, k, "auto")
        rebuilt = found.scores[:, :k] @ found.loadings[:, :k].T
        back = np.divide(rebuilt, scaler.weight, out=np.zeros_like(rebuilt), where=scaler.weight > 0.0)
        fresh = np.where(gaps, back + scaler.centre, values)
        moved = float(np.abs(fresh - whole)[gaps].max())
        whole = fresh
    scaler = fit_scaler(whole, scaling, axis)
    z = scaler.apply(whole)
    return AroundGaps(
        scaler,
        z,
        _of_known(_known_q(decompose(z, scaler.centred, k, "auto"), z, gaps, k), z, ~gaps),
        used,
        moved <= SETTLED * size,
    )


def _of_known(found: Decomposition, z: Floats, known: Booleans) -> Decomposition:
    """The decomposition with the shares that its components explain of the known values."""
    away = np.where(known, z, 0.0)
    total = float(np.einsum("ij,ij->", away, away))
    left = [1.0]
    for a in range(found.computed):
        away = np.where(known, away - np.outer(found.scores[:, a], found.loadings[:, a]), 0.0)
        left.append(float(np.einsum("ij,ij->", away, away)) / total)
    return replace(found, known=known, known_shares=-np.diff(left))


def _known_q(found: Decomposition, z: Floats, gaps: Booleans, k: int) -> Decomposition:
    """The decomposition cut to k components, its Q over the known values."""
    scores, loadings = found.scores[:, :k], found.loadings[:, :k]
    away = np.where(gaps, 0.0, z - scores @ loadings.T)
    return replace(
        found,
        scores=scores,
        loadings=loadings,
        eigenvalues=found.eigenvalues[:k],
        q_rest=np.einsum("ij,ij->i", away, away),
        theta_rest=found.thetas(k),
    )
