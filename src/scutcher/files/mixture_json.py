"""Shapes of a mixture as JSON: self-contained, versioned, readable."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import msgspec

from scutcher import __version__
from scutcher.core.recipes.unmix_settings import UnmixSettings
from scutcher.core.unmixing.saved_mixture import SavedMixture
from scutcher.files.content_seal import sealed
from scutcher.files.model_parts import finite, limit_of_plain, opened, way_in_of_plain, way_in_plain
from scutcher.files.model_schema import check_runs, check_shapes
from scutcher.files.results import limit_plain, write_json

FORMAT, VERSION = "scutcher shapes", 1


def write_mixture_model(path: Path, model: SavedMixture) -> None:
    """Write shapes so that reading gives the same numbers back, to the last digit."""
    plain = {
        "format": FORMAT,
        "version": VERSION,
        "written_by": f"scutcher {__version__}",
        **way_in_plain(model.axis, model.steps, model.learned),
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
    with opened(path, plain, VERSION, "a mixture", "scutcher unmix"):
        check_shapes(plain)
        return _mixture(plain)


def _mixture(plain: dict[str, Any]) -> SavedMixture:
    axis, steps, learned = way_in_of_plain(plain)
    how = msgspec.convert({"rule": plain["rule"], "background": plain["background"]}, UnmixSettings)
    model = SavedMixture(
        axis,
        steps,
        learned,
        tuple(map(str, plain["treated_labels"])),
        tuple(map(str, plain["names"])),
        finite(plain["shapes"]),
        how.rule,
        how.background,
        limit_of_plain(plain["q_limit"]),
        tuple(int(count) for count in plain.get("means_of", ())),
    )
    fits = (
        model.shapes.shape == (len(model.names), len(model.treated_labels))
        and len(model.means_of) in (0, len(model.names))
        and all(count >= 0 for count in model.means_of)
    )
    if not fits:
        raise ValueError("shapes")
    check_runs(model.axis, model.steps, model.learned, model.treated_labels)
    return model
