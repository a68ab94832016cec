"""Amounts of shapes as a kind of model: `X = C S + E`."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

import numpy as np
from msgspec.structs import replace

from scutcher.core.arrays import Floats
from scutcher.core.data.table import Table
from scutcher.core.errors import ModelError
from scutcher.core.frozen import frozen
from scutcher.core.models.kind import ModelKind, Prepared
from scutcher.core.progress import Watch, part, tell
from scutcher.core.recipes.chain import apply_chain, learn_chain
from scutcher.core.recipes.recipe import Recipe
from scutcher.core.recipes.unmix_settings import Shape, SumRule, UnmixSettings
from scutcher.core.unmixing.mixture import Mixture, mixture
from scutcher.core.unmixing.shape_sums import shape_sums
from scutcher.core.validation.segments import make_segments
from scutcher.core.words import count_of


@frozen(eq=False)
class Mixed:
    """Shapes, with what rows of Z need to become treated spectra again.

    Attributes
    ----------
    found : Mixture or None
        None where it was read from plain data.
    names : tuple of q str
    shapes : (q, p) float array
    rule, background : how amounts are found in new spectra
    centre, weight : (p,) float arrays
        Of the scaler.
    """

    found: Mixture | None
    names: tuple[str, ...]
    shapes: Floats
    rule: SumRule
    background: int
    centre: Floats
    weight: Floats


def fit(prepared: Prepared, recipe: Recipe, watch: Watch | None = None) -> Mixed:
    """The shapes that the recipe asks for, and their amounts.

    Raises
    ------
    ModelError
        No shapes are asked for, or the data do not allow it.
    """
    how = recipe.unmix
    found = mixture(prepared.treated, how, watch=watch)
    scaler = prepared.scaler
    return Mixed(
        found, found.names, found.shapes, how.rule, how.background_beside, scaler.centre, scaler.weight
    )


def short(model: Mixed) -> str:
    """The words on the trail."""
    return count_of(model.names, "shape")


def project(model: Mixed, rows: Floats) -> Mapping[str, Floats]:
    """Amounts (m, q) and squares left over (m,) of rows of Z, (m, p)."""
    spectra = np.divide(rows, model.weight, out=np.zeros_like(rows), where=model.weight > 0.0) + model.centre
    sums = shape_sums(spectra, model.shapes, model.rule, model.background, ordered=False)
    return {"amounts": sums.amounts, "q": np.einsum("ij,ij->i", sums.residuals, sums.residuals)}


def distances(model: Mixed) -> Mapping[str, Floats]:
    """What is left over of each training spectrum."""
    return {} if model.found is None else {"q": model.found.q}


@frozen(eq=False)
class LeftOutMisfit:
    """What shapes that have not seen a spectrum leave over of it: (n,) sums of squares, NaN where unknown."""

    q: Floats


def held_out(part_of: Table, recipe: Recipe, model: Mixed, watch: Watch | None = None) -> LeftOutMisfit:
    """Treatments and shapes learned again without each segment, and its spectra fitted by them."""
    q = np.full(len(part_of.ids), np.nan)
    segments = make_segments(part_of, recipe.validate).parts[0]
    steps = [step for step in recipe.treat if step.on]
    for place, rows in enumerate(segments):
        tell(watch, place / len(segments))
        others = np.setdiff1d(np.arange(len(part_of.ids)), rows)
        train, learned = learn_chain(part_of.take(others), steps)
        settings = _without(recipe.unmix, set(train.ids))
        if not settings.asks:
            continue
        own = None if watch is None else part(watch, place / len(segments), (place + 1) / len(segments))
        shapes = mixture(train, settings, watch=own).shapes
        left = apply_chain(part_of.take(rows), steps, learned)
        sums = shape_sums(left.values, shapes, model.rule, model.background, ordered=False)
        q[rows] = np.einsum("ij,ij->i", sums.residuals, sums.residuals)
    return LeftOutMisfit(q)


def _without(settings: UnmixSettings, there: set[str]) -> UnmixSettings:
    """The settings with shapes that are means of training samples only; those of none are left out."""
    kept: list[Shape] = []
    for shape in settings.shapes:
        own, less = (tuple(name for name in names if name in there) for names in (shape.samples, shape.less))
        if shape.values or (own and (less or not shape.less)):
            kept.append(replace(shape, samples=own, less=less))
    whole = settings.number is not None or len(kept) == len(settings.shapes)
    return replace(settings, shapes=tuple(kept) if whole else ())


def evidence(model: Mixed, prepared: Prepared, recipe: Recipe) -> Mapping[str, Any]:
    """Whether another shape is needed, by the order of what is left over."""
    found = model.found
    if found is None or found.leftover is None:
        return {}
    return {"another-shape": found.another_is_needed}


def to_plain(model: Mixed) -> dict[str, Any]:
    """Names, shapes and how amounts are found."""
    return {
        "names": list(model.names),
        "shapes": model.shapes.tolist(),
        "rule": model.rule,
        "background": model.background,
        "centre": model.centre.tolist(),
        "weight": model.weight.tolist(),
    }


def from_plain(plain: Mapping[str, Any]) -> Mixed:
    """The way back.

    Raises
    ------
    ModelError
        These are not the numbers of shapes.
    """
    try:
        shapes = np.array(plain["shapes"], dtype=np.float64)
        names = tuple(map(str, plain["names"]))
        centre, weight = (np.array(plain[key], dtype=np.float64) for key in ("centre", "weight"))
        rule, background = plain["rule"], int(plain["background"])
    except (KeyError, TypeError, ValueError) as error:
        raise ModelError("These are not the numbers of shapes.", "Save them again.") from error
    fits = shapes.ndim == 2 and shapes.shape == (len(names), len(centre)) and weight.shape == centre.shape
    if not fits or rule not in ("free", "not-negative", "sum-to-one"):
        raise ModelError("Names, shapes and channels do not belong together.", "Save them again.")
    return Mixed(None, names, shapes, rule, background, centre, weight)


KIND = ModelKind(
    key="unmix",
    name="Shapes",
    purpose="each spectrum as a sum of shapes that are given or found, and how much of each",
    settings=UnmixSettings,
    gives=frozenset({"scores", "loadings", "distances", "amounts"}),
    fit=fit,
    short=short,
    project=project,
    distances=distances,
    validate=held_out,
    evidence=evidence,
    to_plain=to_plain,
    from_plain=from_plain,
)
