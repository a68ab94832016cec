"""An evaluation as files: what `scutcher fit` leaves in its folder."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np

from scutcher import __version__
from scutcher.core.arrays import Floats
from scutcher.core.data.constant_variables import constant_variables
from scutcher.core.distances.contributions import residuals
from scutcher.core.models.pca.component_model import explained
from scutcher.core.validation.evidence import KEYS
from scutcher.core.words import plain_numbers
from scutcher.files.layout.reading import reading_of_pairs
from scutcher.files.model_json import write_model
from scutcher.files.results import (
    held_out_plain,
    limit_plain,
    write_distances,
    write_json,
    write_loadings,
    write_matrix,
    write_scores,
)
from scutcher.files.safely import make_folder
from scutcher.study.evaluation.checks import Checked
from scutcher.study.evaluation.evaluation import Evaluation
from scutcher.study.evaluation.saving import held_out_columns, held_out_of, saved_model


@plain_numbers()
def write_fit(
    folder: Path,
    found: Evaluation,
    checked: Checked,
    seconds: float,
    full: bool,
) -> list[Path]:
    """Write summary.json, scores.csv, loadings.csv, distances.csv, model.json; in full treated and residuals.

    Raises
    ------
    FileError
        The folder cannot be made or written to.
    """
    make_folder(folder)
    model, samples = found.model, found.treated
    write_json(folder / "summary.json", summary(found, checked, seconds))
    write_model(folder / "model.json", saved_model(found, checked))
    write_scores(folder / "scores.csv", samples, model.scores)
    write_loadings(folder / "loadings.csv", *loadings_of_all(found))
    write_distances(
        folder / "distances.csv",
        samples.ids,
        (
            ("t2", model.t2, model.past(model.t2, model.t2_limit)),
            ("q", model.q, model.past(model.q, model.q_limit)),
            ("joint", model.joint, model.past(model.joint, model.joint_limit)),
        ),
        held_out_columns(found, checked),
    )
    names = ["summary.json", "scores.csv", "loadings.csv", "distances.csv", "model.json"]
    if full:
        labels = samples.axis.labels
        write_matrix(folder / "treated.csv", samples.ids, labels, found.z)
        write_matrix(folder / "residuals.csv", samples.ids, labels, residuals(found.z, model))
        names += ["treated.csv", "residuals.csv"]
    return [folder / name for name in names]


def loadings_of_all(found: Evaluation) -> tuple[tuple[str, ...], Floats]:
    """Loadings with a row for every variable brought in: zeros for those that the model does not see.

    Where a treatment has made other variables, the rows are those.
    """
    loadings = found.model.loadings
    if found.treated.axis.labels != found.stages[0].axis.labels:
        return found.treated.axis.labels, loadings
    whole = np.zeros((found.table.shape[1], loadings.shape[1]))
    whole[found.usable.columns] = loadings
    return found.table.axis.labels, whole


def summary(found: Evaluation, checked: Checked, seconds: float) -> dict[str, Any]:
    """The figures of a fit as plain data; what is undefined is null."""
    model, components = found.model, found.decomposition
    eigenvalues = components.all_eigenvalues if np.isfinite(found.treated.values.sum()) else None
    if eigenvalues is None or len(eigenvalues) < components.computed:
        eigenvalues = components.eigenvalues
    around_gaps = components.known_shares is not None
    shares = explained(components) if around_gaps else eigenvalues / components.total_variance
    validation = checked.validation
    return {
        "scutcher": __version__,
        "samples": found.scaled.shape[0],
        "variables": len(loadings_of_all(found)[0]),
        "variables_used": int(np.count_nonzero(found.scaler.weight)),
        "rank": components.rank,
        "components": model.k,
        "engine": components.engine,
        "iterations": list(components.iterations) or None,
        "centre": found.scaling.centre,
        "scale": found.scaling.method,
        "scale_default": found.recipe.scale is None,
        "treatments": [step.method for step in found.recipe.treat if step.on],
        "total_variance": components.total_variance,
        "eigenvalues": eigenvalues,
        "explained": shares,
        "explained_cumulative": np.cumsum(shares),
        "q2": None if validation is None else validation.q2,
        "press": None if validation is None else validation.press,
        "q2_error": None if validation is None else validation.q2_error,
        "q2_rowwise": None if validation is None else validation.q2_rowwise,
        "validation": _validation(checked),
        "t2_limit": limit_plain(model.t2_limit),
        "q_limit": limit_plain(model.q_limit),
        "joint": _joint(found),
        "held_out": held_out_plain(held_out_of(found, checked)),
        "evidence": {key: checked.lines[key].suggested if key in checked.lines else None for key in KEYS},
        "left_out": _left_out(found),
        "gaps": {
            "count": found.usable.gap_count,
            "policy": found.recipe.model.gaps,
            "samples": [found.table.ids[row] for row in found.usable.gap_rows],
        },
        "warnings": [*found.table.origin.remarks, *_warnings(found, checked)],
        "reading": reading_of_pairs(found.table.origin.reading).plain() or None,
        "seconds_fit": seconds,
    }


def _validation(checked: Checked) -> dict[str, Any] | None:
    validation = checked.validation
    if validation is None:
        return {"scheme": "none", "reason": checked.why_not}
    plain = {
        "scheme": validation.settings.scheme,
        "segments": validation.segments,
        "repeats": validation.settings.repeats if validation.settings.scheme == "random" else 1,
        "seed": validation.settings.seed,
        "block": validation.block,
    }
    return plain | ({"column": validation.column} if validation.column else {})


def _joint(found: Evaluation) -> dict[str, Any] | None:
    scale, limit = found.model.joint_scale, found.model.joint_limit
    if scale is None or limit is None:
        return None
    return {
        "method": found.recipe.limits.joint,
        "h0": scale.h0,
        "q0": scale.q0,
        "nh": scale.nh,
        "nq": scale.nq,
        "level": limit.level,
        "limit": limit.value,
    }


def _left_out(found: Evaluation) -> dict[str, Any]:
    axis, constant = found.treated.axis, found.scaler.constant
    variables = [
        {"variable": found.table.axis.labels[column], "reason": reason}
        for column, reason in sorted(found.usable.left_out_columns.items())
    ]
    measured = {found.part.axis.labels[int(column)] for column in constant_variables(found.part)}
    for label in (axis.labels[int(column)] for column in constant):
        reason = (
            "constant: the same value in every sample" if label in measured else "constant after treatment"
        )
        variables.append({"variable": label, "reason": reason})
    samples = [
        {"sample": found.table.ids[row], "reason": reason}
        for row, reason in sorted(found.usable.left_out_rows.items())
    ]
    return {"samples": samples, "variables": variables}


def _warnings(found: Evaluation, checked: Checked) -> list[str]:
    warnings = []
    if found.recipe.scale is None:
        kind = "an ordered axis" if found.treated.axis.ordered else "a table of mixed variables"
        warnings.append(
            f"No scaling was asked for: centre {found.scaling.centre}, scale {found.scaling.method}, "
            f"the default for {kind}."
        )
    if found.recipe.model.components is None:
        warnings.append(f"No number of components was asked for: {found.model.k} were kept.")
    unsettled = found.decomposition.unsettled
    if unsettled:
        warnings.append(f"NIPALS did not converge for component {', '.join(map(str, unsettled))}.")
    if found.note:
        warnings.append(found.note)
    if found.recipe.validate.scheme != "none" and checked.validation is None:
        warnings.append(f"Not validated: {checked.why_not}")
    warnings += [limit.reason for limit in (found.model.t2_limit, found.model.q_limit) if limit.reason]
    return warnings
