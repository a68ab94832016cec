"""Components in the order of their smoothness over a picture as a kind of model (maximum autocorrelation)."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import numpy as np

from scutcher.core.arrays import Floats
from scutcher.core.data.grid import grid_of
from scutcher.core.data.table import Table
from scutcher.core.errors import ModelError
from scutcher.core.frozen import frozen
from scutcher.core.images.map_structure import map_structure
from scutcher.core.images.of_table import as_image
from scutcher.core.images.pixel_treatment import PixelTreatment
from scutcher.core.images.smooth_order import SmoothOrder, smooth_order
from scutcher.core.models.kind import ModelKind, Prepared
from scutcher.core.models.pca.component_model import DEFAULT_COMPONENTS
from scutcher.core.progress import Watch, part, tell
from scutcher.core.recipes.chain import apply_chain, learn_chain
from scutcher.core.recipes.recipe import ModelSettings, Recipe
from scutcher.core.scaling.scaler import fit_scaler
from scutcher.core.validation.segments import make_segments
from scutcher.core.words import count_of


@frozen(eq=False)
class Smooth:
    """The smoothest components.

    Attributes
    ----------
    order : SmoothOrder or None
        All of them; None where it was read from plain data.
    weights, patterns : (p, k) float arrays
        Scores of rows of Z are `(z − mean) · weights`, each of variance one; a pixel that has one more of a
        component is a pattern richer.
    mean : (p,) float array
    autocorrelation : (k,) float array
    limit : float
        What the smoothest of pure noise stays under in 19 of 20 pictures.
    scores : (n, k) float array
        Of the training pixels; none where it was read from plain data.
    """

    order: SmoothOrder | None
    weights: Floats
    patterns: Floats
    mean: Floats
    autocorrelation: Floats
    limit: float
    scores: Floats


def fit(prepared: Prepared, recipe: Recipe, watch: Watch | None = None) -> Smooth:
    """As many components as the recipe keeps, from the smoothest on.

    Raises
    ------
    ModelError
        The samples are no pixels, no two neighbours differ, or there are fewer components than asked for.
    """
    order = _order(prepared.treated, prepared.scaled.whole, watch)
    most = order.weights.shape[1]
    k = recipe.model.components or min(DEFAULT_COMPONENTS, most)
    if k > most:
        raise ModelError(f"There are {count_of(most, 'component')}, {k} are asked for.", "Keep fewer.")
    weights = order.weights[:, :k]
    scores = (prepared.scaled.whole - order.mean) @ weights
    kept = order.autocorrelation[:k]
    return Smooth(order, weights, order.patterns[:, :k], order.mean, kept, order.limit, scores)


def _order(table: Table, z: Floats, watch: Watch | None) -> SmoothOrder:
    found = grid_of(table)
    if found is None:
        raise ModelError(
            f"{table.name} is no picture: no two columns say where samples lie.", "Order by variance."
        )
    return smooth_order(PixelTreatment(as_image(table.with_values(z), *found)), watch=watch)


def short(model: Smooth) -> str:
    """The words on the trail."""
    return count_of(model.weights.shape[1], "component")


def project(model: Smooth, rows: Floats) -> Mapping[str, Floats]:
    """Scores (m, k) and T² (m,) of rows of Z, (m, p)."""
    scores = (rows - model.mean) @ model.weights
    return {"scores": scores, "t2": np.einsum("ij,ij->i", scores, scores)}


def distances(model: Smooth) -> Mapping[str, Floats]:
    """T² of the training pixels."""
    return {"t2": np.einsum("ij,ij->i", model.scores, model.scores)} if len(model.scores) else {}


@frozen(eq=False)
class LeftOutSmoothness:
    """How smooth components are on pixels that they have not seen.

    Attributes
    ----------
    agreement : (segments, k) float array
        Moran's I of the left-out pixels' scores; NaN where no two of them are neighbours.
    """

    agreement: Floats


def held_out(part_of: Table, recipe: Recipe, model: Smooth, watch: Watch | None = None) -> LeftOutSmoothness:
    """Everything learned again without each segment, and the smoothness of its pixels' scores.

    Raises
    ------
    ModelError
        The samples are no pixels.
    """
    placed = grid_of(part_of)
    if placed is None:
        raise ModelError(f"{part_of.name} is no picture.", "Order by variance.")
    (layout, cells), k = placed, model.weights.shape[1]
    segments = make_segments(part_of, recipe.validate).parts[0]
    steps = [step for step in recipe.treat if step.on]
    agreement = np.full((len(segments), k), np.nan)
    for place, rows in enumerate(segments):
        tell(watch, place / len(segments))
        own = None if watch is None else part(watch, place / len(segments), (place + 1) / len(segments))
        others = np.setdiff1d(np.arange(len(part_of.ids)), rows)
        train, learned = learn_chain(part_of.take(others), steps)
        scaler = fit_scaler(train.values, recipe.scaling_for(train.axis.ordered), train.axis)
        order = _order(train, scaler.apply(train.values), own)
        left = scaler.apply(apply_chain(part_of.take(rows), steps, learned).values)
        scores = (left - order.mean) @ order.weights[:, :k]
        for a in range(scores.shape[1]):
            picture = np.full(layout.rows * layout.columns, np.nan)
            picture[cells[rows]] = scores[:, a]
            found = map_structure(picture.reshape(layout.rows, layout.columns))
            agreement[place, a] = np.nan if found is None else found.agreement
    return LeftOutSmoothness(agreement)


def evidence(model: Smooth, prepared: Prepared, recipe: Recipe) -> Mapping[str, Any]:
    """How many components are smoother than the smoothest of noise would be."""
    known = model.autocorrelation if model.order is None else model.order.autocorrelation
    return {"above-noise": int((known > model.limit).sum())}


def to_plain(model: Smooth) -> dict[str, Any]:
    """Weights, patterns, mean, and how smooth each is."""
    return {
        "weights": model.weights.tolist(),
        "patterns": model.patterns.tolist(),
        "mean": model.mean.tolist(),
        "autocorrelation": model.autocorrelation.tolist(),
        "limit": model.limit,
    }


def from_plain(plain: Mapping[str, Any]) -> Smooth:
    """The way back.

    Raises
    ------
    ModelError
        These are not the numbers of such components.
    """
    try:
        names = ("weights", "patterns", "mean", "autocorrelation")
        weights, patterns, mean, kept = (np.array(plain[name], dtype=np.float64) for name in names)
        limit = float(plain["limit"])
    except (KeyError, TypeError, ValueError) as error:
        raise ModelError("These are not the numbers of smooth components.", "Save them again.") from error
    fits = weights.ndim == 2 and patterns.shape == weights.shape
    if not fits or mean.shape != weights.shape[:1] or kept.shape != weights.shape[1:]:
        raise ModelError("Weights, patterns and mean do not belong together.", "Save them again.")
    return Smooth(None, weights, patterns, mean, kept, limit, np.empty((0, weights.shape[1])))


KIND = ModelKind(
    key="maf",
    name="Smooth order",
    purpose="components of pixels in the order of their smoothness over the picture",
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
