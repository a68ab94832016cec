"""Principal components as a kind of model: `Z = T Pᵀ + E`."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import numpy as np

from scutcher.core.arrays import Floats
from scutcher.core.data.table import Table
from scutcher.core.errors import ModelError
from scutcher.core.frozen import frozen
from scutcher.core.models.kind import ModelKind, Prepared
from scutcher.core.models.pca.component_model import DEFAULT_COMPONENTS, ComponentModel, keep
from scutcher.core.models.pca.engines.choice import decompose
from scutcher.core.numeric.matrix_rank import structural_rank
from scutcher.core.progress import Watch
from scutcher.core.recipes.recipe import ModelSettings, Recipe
from scutcher.core.validation.cross_validation import Validation, validate
from scutcher.core.validation.evidence import Line, quick_lines
from scutcher.core.words import count_of


def fit(prepared: Prepared, recipe: Recipe, watch: Watch | None = None) -> ComponentModel:
    """Components asked for, or as many as there are by default, with distances and limits.

    Raises
    ------
    ModelError
        There are fewer components than asked for, or nothing varies.
    """
    settings, (n, p) = recipe.model, prepared.scaled.shape
    centred = prepared.scaler.centred
    k = settings.components or min(DEFAULT_COMPONENTS, structural_rank(n, p, centred))
    how = (settings.engine, settings.seed, settings.tolerance, settings.rounds)
    found = decompose(prepared.scaled, centred, k, *how, watch=watch)
    return keep(found, k, recipe.limits)


def short(model: ComponentModel) -> str:
    """The words on the trail."""
    return count_of(model.k, "component")


@frozen(eq=False)
class Plane:
    """What is stored of a model: loadings (p, k) and eigenvalues (k,)."""

    loadings: Floats
    eigenvalues: Floats


def project(model: ComponentModel | Plane, rows: Floats) -> Mapping[str, Floats]:
    """Scores (m, k), T² and Q (m,) of rows of Z, (m, p)."""
    scores = rows @ model.loadings
    left = rows - scores @ model.loadings.T
    t2 = (scores**2 / model.eigenvalues).sum(axis=1)
    return {"scores": scores, "t2": t2, "q": np.einsum("ij,ij->i", left, left)}


def distances(model: ComponentModel) -> Mapping[str, Floats]:
    """T², Q and, where it is defined, the joint distance of the training samples."""
    found = {"t2": model.t2, "q": model.q}
    return found if model.joint is None else {**found, "joint": model.joint}


def held_out(part: Table, recipe: Recipe, model: ComponentModel, watch: Watch | None = None) -> Validation:
    """PRESS and Q² over the segments that the recipe asks for."""
    return validate(part, recipe, model.k, watch)


def evidence(model: ComponentModel, prepared: Prepared, recipe: Recipe) -> Mapping[str, Line]:
    """The lines of evidence on the number of components that need no further fits."""
    variables = int(np.count_nonzero(prepared.scaler.weight))
    scaling = recipe.scaling_for(prepared.treated.axis.ordered)
    return quick_lines(
        model.decomposition,
        None,
        "not validated",
        (prepared.scaled.shape[0], variables),
        prepared.treated.axis.ordered,
        scaling.method == "sd",
        variables,
        recipe.evidence,
    )


def to_plain(model: ComponentModel) -> dict[str, Any]:
    """Loadings and eigenvalues: the plane that samples are projected onto."""
    return {"loadings": model.loadings.tolist(), "eigenvalues": model.eigenvalues.tolist()}


def from_plain(plain: Mapping[str, Any]) -> Plane:
    """The plane of plain data.

    Raises
    ------
    ModelError
        It is none.
    """
    try:
        loadings = np.array(plain["loadings"], dtype=np.float64)
        eigenvalues = np.array(plain["eigenvalues"], dtype=np.float64)
    except (KeyError, TypeError, ValueError) as error:
        raise ModelError("These are not the numbers of a component model.", "Save it again.") from error
    if loadings.ndim != 2 or eigenvalues.shape != (loadings.shape[1],) or not (eigenvalues > 0.0).all():
        raise ModelError("Loadings and eigenvalues do not belong together.", "Save the model again.")
    return Plane(loadings, eigenvalues)


KIND = ModelKind(
    key="pca",
    name="PCA",
    purpose="few components that explain most of the variance of many variables",
    settings=ModelSettings,
    gives=frozenset({"scores", "loadings", "distances"}),
    fit=fit,
    short=short,
    project=project,
    distances=distances,
    validate=held_out,
    evidence=evidence,
    to_plain=to_plain,
    from_plain=from_plain,
)
