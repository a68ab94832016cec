"""An evaluation as a model that can be saved."""

from __future__ import annotations

from scutcher.core.arrays import Floats
from scutcher.core.distances.held_out_limits import HeldOutLimits, held_out_limits
from scutcher.core.distances.limits import Limit
from scutcher.core.frozen import frozen
from scutcher.core.models.pca.saved_model import SavedModel
from scutcher.study.evaluation.checks import Checked
from scutcher.study.evaluation.evaluation import Evaluation


def held_out_of(found: Evaluation, checked: Checked | None) -> HeldOutLimits | None:
    """The limits for new samples, where the model was validated."""
    if checked is None or checked.validation is None or checked.validation.distances is None:
        return None
    limits = found.recipe.limits
    return held_out_limits(checked.validation.distances, found.model.k, limits.level, limits.joint)


@frozen(eq=False)
class SeenAsNew:
    """The training samples as if they were new: each against a model that has not seen it.

    Attributes
    ----------
    distances : dict of "t2", "q", "joint" → (n,) float array or None
    limits : dict of the same → Limit or None
    caution : str
        What is said beside them, where they rest on few groups.
    """

    distances: dict[str, Floats | None]
    limits: dict[str, Limit | None]
    caution: str


def seen_as_new(found: Evaluation, checked: Checked | None) -> SeenAsNew | None:
    """Distances of the training samples to the models of segments that left them out, with their limits."""
    held = held_out_of(found, checked)
    if held is None or checked is None or checked.validation is None or checked.validation.distances is None:
        return None
    t2, h, q = checked.validation.distances.of_samples(found.model.k, len(found.treated.ids))
    joint = None if held.scale is None else held.scale.distance(h, q)
    limits = {"t2": held.t2_limit, "q": held.q_limit, "joint": held.joint_limit}
    return SeenAsNew({"t2": t2, "q": q, "joint": joint}, limits, held.caution)


def held_out_columns(found: Evaluation, checked: Checked) -> list[tuple[str, Floats | None]]:
    """T², Q and joint distance of each training sample to models that have not seen it."""
    seen = seen_as_new(found, checked)
    kinds = ("t2", "q", "joint")
    return [(f"{kind}_held_out", None if seen is None else seen.distances[kind]) for kind in kinds]


def saved_model(found: Evaluation, checked: Checked | None = None) -> SavedModel:
    """What is needed to project new samples, without the training samples; with the limits for new ones."""
    ran = [place for place, step in enumerate(found.run_recipe.treat) if step.on]
    model = found.model
    return SavedModel(
        axis=found.part.axis,
        steps=tuple(found.recipe.treat[place] for place in ran),
        learned=tuple(found.learned[place] for place in ran),
        fill=found.fill,
        treated_labels=found.treated.axis.labels,
        centre=found.scaler.centre,
        weight=found.scaler.weight,
        loadings=model.loadings.copy(),
        eigenvalues=model.decomposition.eigenvalues[: model.k].copy(),
        samples=found.scaled.shape[0],
        level=found.recipe.limits.level,
        q_limit=model.q_limit,
        joint_scale=model.joint_scale,
        held_out=held_out_of(found, checked),
        filled_with="" if found.fill is None else found.recipe.model.gaps,
    )
