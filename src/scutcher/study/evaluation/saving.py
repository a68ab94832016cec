"""An evaluation as a model that can be saved."""

from __future__ import annotations

from scutcher.core.models.pca.saved_model import SavedModel
from scutcher.study.evaluation.evaluation import Evaluation


def saved_model(found: Evaluation) -> SavedModel:
    """What is needed to project new samples, without the training samples."""
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
    )
