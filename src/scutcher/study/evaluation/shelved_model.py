"""An evaluation as it goes on the shelf."""

from __future__ import annotations

import numpy as np
from msgspec.structs import replace

from scutcher.core.arrays import Integers
from scutcher.core.models.pca.component_model import explained
from scutcher.core.recipes.recipe import Recipe, Step
from scutcher.core.validation.cross_validation import Validation
from scutcher.study.document.parts import Reached
from scutcher.study.evaluation.evaluation import Evaluation


def recipe_name(recipe: Recipe) -> str:
    """What a recipe is called before anybody names it: its treatments, in short."""
    steps = [step for step in recipe.treat if step.on]
    scale = recipe.scale.method if recipe.scale is not None and recipe.scale.method != "none" else ""
    parts = [_short(step) for step in steps] + ([scale] if scale else [])
    return " · ".join(parts) or "untreated"


def _short(step: Step) -> str:
    words = {"savitzky-golay": "SG", "extended-msc": "EMSC", "snv": "SNV", "msc": "MSC"}
    derivative = getattr(step.parameters, "derivative", None)
    order = "" if derivative is None else (" smooth", " 1st", " 2nd", " 3rd", " 4th")[derivative]
    return words.get(step.method, step.method.replace("-", " ")) + order


def with_kept(found: Evaluation) -> Recipe:
    """The recipe of an evaluation with the number of components that it keeps."""
    return replace(found.recipe, model=replace(found.recipe.model, components=found.model.k))


def reached(
    found: Evaluation,
    codes: Integers,
    validation: Validation | None,
    more: dict[str, float | None] | None = None,
) -> Reached:
    """What the model of an evaluation has reached: its figures and its score plane.

    Parameters
    ----------
    codes : (n,) int array
        The class of each sample in the model.
    """
    model = found.model
    figures: dict[str, float | None] = {
        "samples": float(found.scaled.shape[0]),
        "variables": float(found.scaled.shape[1]),
        "components": float(model.k),
        "r2": float(explained(found.decomposition)[: model.k].sum()),
        "q2": None
        if validation is None or model.k > len(validation.q2)
        else float(validation.q2[model.k - 1]),
        **(more or {}),
    }
    return Reached(
        tuple((key, value) for key, value in figures.items() if value is not None and np.isfinite(value)),
        np.ascontiguousarray(model.scores[:, :2]),
        np.asarray(codes, dtype=np.intp),
    )
