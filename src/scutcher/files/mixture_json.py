"""Shapes of a mixture as JSON: self-contained, versioned, readable."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import msgspec
import numpy as np

from scutcher import __version__
from scutcher.core.data.axis import Axis
from scutcher.core.distances.limits import Limit
from scutcher.core.errors import FileError, InputError
from scutcher.core.recipes.chain import learned_from_plain, learned_to_plain
from scutcher.core.recipes.recipe import Recipe, recipe_from_plain, recipe_to_plain
from scutcher.core.recipes.unmix_settings import UnmixSettings
from scutcher.core.unmixing.saved_mixture import SavedMixture
from scutcher.files.content_seal import check_seal, sealed
from scutcher.files.model_schema import check_runs, check_shapes
from scutcher.files.results import limit_plain, write_json

FORMAT, VERSION = "scutcher shapes", 1


def write_mixture_model(path: Path, model: SavedMixture) -> None:
    """Write shapes so that reading gives the same numbers back, to the last digit."""
    axis = model.axis
    plain = {
        "format": FORMAT,
        "version": VERSION,
        "written_by": f"scutcher {__version__}",
        "axis": {
            "labels": list(axis.labels),
            "positions": None if axis.positions is None else axis.positions.tolist(),
            "quantity": axis.quantity,
            "unit": axis.unit,
        },
        "treat": recipe_to_plain(Recipe(treat=model.steps)).get("treat", []),
        "learned": [learned_to_plain(lesson) for lesson in model.learned],
        "treated_labels": list(model.treated_labels),
        "names": list(model.names),
        "shapes": model.shapes.tolist(),
        "rule": model.rule,
        "background": model.background,
        "q_limit": limit_plain(model.q_limit),
        "means_of": list(model.means_of),
    }
    write_json(path, sealed(plain))


def mixture_of_plain(path: Path, plain: dict[str, Any]) -> SavedMixture:
    """The shapes of plain data that were read from a file.

    Raises
    ------
    FileError
        They are none, are of a newer version, or the parts do not fit together.
    """
    if plain.get("version") != VERSION:
        raise FileError(
            f"{path.name} holds shapes of version {plain.get('version')}; this Scutcher reads {VERSION}.",
            "Use the Scutcher that wrote it, or a newer one.",
        )
    check_seal(path, plain)
    try:
        check_shapes(plain)
        return _mixture(plain)
    except InputError as error:
        raise FileError(f"{path.name}: {error.problem}", error.remedy) from error
    except (LookupError, TypeError, ValueError, OverflowError, msgspec.ValidationError) as error:
        raise FileError(
            f"{path.name} is damaged: its parts do not fit together.", "Write it again with scutcher unmix."
        ) from error


def _mixture(plain: dict[str, Any]) -> SavedMixture:
    axis, limit = plain["axis"], plain["q_limit"]
    positions = axis["positions"]
    how = msgspec.convert({"rule": plain["rule"], "background": plain["background"]}, UnmixSettings)
    value = limit["value"]
    model = SavedMixture(
        Axis(
            tuple(map(str, axis["labels"])),
            None if positions is None else np.asarray(positions, dtype=np.float64),
            str(axis["quantity"]),
            str(axis["unit"]),
        ),
        recipe_from_plain({"treat": plain["treat"]}).treat,
        tuple(learned_from_plain(lesson) for lesson in plain["learned"]),
        tuple(map(str, plain["treated_labels"])),
        tuple(map(str, plain["names"])),
        np.asarray(plain["shapes"], dtype=np.float64),
        how.rule,
        how.background,
        Limit(float(limit["level"]), str(limit["method"]), None if value is None else float(value)),
        tuple(int(count) for count in plain.get("means_of", ())),
    )
    fits = (
        model.shapes.shape == (len(model.names), len(model.treated_labels))
        and np.isfinite(model.shapes).all()
        and len(model.means_of) in (0, len(model.names))
        and all(count >= 0 for count in model.means_of)
        and len(model.learned) == len(model.steps)
        and (positions is None or len(positions) == len(model.axis.labels))
    )
    if not fits:
        raise ValueError("shapes")
    check_runs(model.axis, model.steps, model.learned, model.treated_labels)
    return model
