"""A saved model as JSON: self-contained, versioned, readable."""

from __future__ import annotations

import json
from collections.abc import Mapping
from pathlib import Path
from typing import Any

from scutcher import __version__
from scutcher.core.distances.held_out_limits import HeldOutLimits
from scutcher.core.distances.joint_distance import JointScale
from scutcher.core.distances.limits import Limit
from scutcher.core.errors import FileError
from scutcher.core.models.pca.saved_model import SavedModel
from scutcher.files.content_seal import sealed
from scutcher.files.model_parts import finite, limit_of_plain, opened, way_in_of_plain, way_in_plain
from scutcher.files.model_schema import check_model, check_runs
from scutcher.files.results import held_out_plain, limit_plain, write_json
from scutcher.files.safely import reading

FORMAT, VERSION = "scutcher model", 1
LARGEST = 2_000_000_000  # bytes of a file that is taken for a model


def write_model(path: Path, model: SavedModel, made: Mapping[str, Any] | None = None) -> None:
    """Write a model so that `read_model` gives the same numbers back, to the last digit.

    Parameters
    ----------
    made : by what, when, by whom and of which files; nothing is read from it
    """
    plain = model_plain(model)
    write_json(path, sealed({**plain, "made": made} if made else plain))


def model_plain(model: SavedModel) -> dict[str, Any]:
    """A model as plain data."""
    scale = model.joint_scale
    return {
        "format": FORMAT,
        "version": VERSION,
        "written_by": f"scutcher {__version__}",
        **way_in_plain(model.axis, model.steps, model.learned),
        "fill": None if model.fill is None else model.fill.tolist(),
        "filled_with": model.filled_with,
        "treated_labels": list(model.treated_labels),
        "centre": model.centre.tolist(),
        "weight": model.weight.tolist(),
        "loadings": model.loadings.T.tolist(),
        "eigenvalues": model.eigenvalues.tolist(),
        "samples": model.samples,
        "level": model.level,
        "q_limit": limit_plain(model.q_limit),
        "joint_scale": None if scale is None else [scale.h0, scale.q0, scale.nh, scale.nq],
        "held_out": held_out_plain(model.held_out),
    }


def read_plain(path: Path) -> dict[str, Any]:
    """The JSON object of a file.

    Raises
    ------
    FileError
        It is none.
    """
    with reading(path):
        if path.stat().st_size > LARGEST:
            raise FileError(f"{path.name} is too large for a model.", "Name a model.json of scutcher fit.")
        raw = path.read_bytes()
    try:
        plain = json.loads(raw)
    except (ValueError, RecursionError) as error:
        raise FileError(f"{path.name} is not JSON.", "Name a model.json of scutcher fit.") from error
    if not isinstance(plain, dict):
        raise FileError(f"{path.name} is not a Scutcher model.", "Name a model.json of scutcher fit.")
    return plain


def read_model(path: Path) -> SavedModel:
    """Read a model.

    Raises
    ------
    FileError
        It is not a model, is from a newer version, or its parts do not fit together.
    """
    return model_of_plain(path, read_plain(path))


def model_of_plain(path: Path, plain: dict[str, Any]) -> SavedModel:
    """The model of plain data that were read from a file.

    Raises
    ------
    FileError
        It is none, is from a newer version, or its parts do not fit together.
    """
    if plain.get("format") != FORMAT:
        raise FileError(f"{path.name} is not a Scutcher model.", "Name a model.json of scutcher fit.")
    with opened(path, plain, VERSION, "a model", "scutcher fit"):
        check_model(plain)
        return _model(plain)


def _model(plain: dict[str, Any]) -> SavedModel:
    scale = plain["joint_scale"]
    axis, steps, learned = way_in_of_plain(plain)
    model = SavedModel(
        axis=axis,
        steps=steps,
        learned=learned,
        fill=None if plain["fill"] is None else finite(plain["fill"]),
        treated_labels=tuple(map(str, plain["treated_labels"])),
        centre=finite(plain["centre"]),
        weight=finite(plain["weight"]),
        loadings=finite(plain["loadings"]).T,
        eigenvalues=finite(plain["eigenvalues"]),
        samples=int(plain["samples"]),
        level=float(plain["level"]),
        q_limit=limit_of_plain(plain["q_limit"]),
        joint_scale=None if scale is None else JointScale(*map(float, scale)),
        held_out=_held_out(plain.get("held_out")),
        filled_with=str(plain.get("filled_with", "")),
    )
    p, k = len(model.treated_labels), len(model.eigenvalues)
    fits = (
        model.loadings.shape == (p, k)
        and len(model.centre) == len(model.weight) == p
        and (model.fill is None or len(model.fill) == len(model.axis.labels))
    )
    if not fits:
        raise ValueError("shapes")
    check_runs(model.axis, model.steps, model.learned, model.treated_labels)
    return model


def _held_out(plain: Any) -> HeldOutLimits | None:
    """The limits for new samples; models of before have none."""
    if plain is None:
        return None
    scale = (
        None if plain["h0"] is None else JointScale(*(float(plain[key]) for key in ("h0", "q0", "nh", "nq")))
    )
    level = float(plain["level"])
    value = None if plain["q_limit"] is None else float(plain["q_limit"])
    limit = Limit(level, "held-out", value, str(plain.get("reason", "")))
    joint, t2 = (
        None if plain[key] is None else Limit(level, "held-out", float(plain[key]))
        for key in ("joint_limit", "t2_limit")
    )
    t2 = t2 or Limit(level, "held-out", None)
    return HeldOutLimits(level, str(plain["method"]), scale, limit, joint, t2, int(plain["groups"]))
