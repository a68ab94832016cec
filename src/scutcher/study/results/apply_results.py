"""New samples on a saved model, as files: what `scutcher apply` leaves in its folder."""

from __future__ import annotations

from pathlib import Path
from typing import Any

from scutcher import __version__
from scutcher.core.arrays import Booleans, Floats
from scutcher.core.data.table import Table
from scutcher.core.distances.limits import Limit
from scutcher.core.models.pca.saved_model import Projected, SavedModel
from scutcher.core.words import plain_numbers
from scutcher.files.results import limit_plain, write_distances, write_json, write_scores
from scutcher.files.safely import make_folder


@plain_numbers()
def write_applied(folder: Path, model: SavedModel, table: Table, found: Projected) -> list[Path]:
    """Write scores.csv, distances.csv and summary.json, with the limits for new samples."""
    make_folder(folder)
    write_scores(folder / "scores.csv", found.table, found.scores)
    flags = past_limits(model, found)
    write_distances(
        folder / "distances.csv",
        found.table.ids,
        (
            ("t2", found.t2, flags["t2"]),
            ("q", found.q, flags["q"]),
            ("joint", found.joint, flags["joint"]),
        ),
    )
    write_json(folder / "summary.json", _summary(model, table, found, flags))
    return [folder / name for name in ("scores.csv", "distances.csv", "summary.json")]


def past_limits(model: SavedModel, found: Projected) -> dict[str, Booleans | None]:
    """For T², Q and the joint distance, which new samples are past the limit; None where there is none."""
    measured: tuple[tuple[str, Floats | None, Limit | None], ...] = (
        ("t2", found.t2, model.t2_limit),
        ("q", found.q, model.q_limit),
        ("joint", found.joint, model.joint_limit),
    )
    return {
        name: None if values is None or limit is None or limit.value is None else values > limit.value
        for name, values, limit in measured
    }


def _summary(
    model: SavedModel, table: Table, found: Projected, flags: dict[str, Booleans | None]
) -> dict[str, Any]:
    scale, limit = model.joint_scale, model.joint_limit
    joint: dict[str, float | None] | None = None
    if scale is not None and limit is not None:
        joint = {"h0": scale.h0, "q0": scale.q0, "nh": scale.nh, "nq": scale.nq}
        joint |= {"level": limit.level, "limit": limit.value}
    counts = found.gaps + found.filled
    with_gaps = [found.table.ids[row] for row, count in enumerate(counts.tolist()) if count]
    warnings = [*found.table.origin.remarks, *found.notes]
    if found.gaps.any():
        warnings.append("Samples with gaps: scores by least squares, Q over their known variables only.")
    return {
        "scutcher": __version__,
        "samples": len(found.rows),
        "variables": len(model.axis),
        "components": model.k,
        "training_samples": model.samples,
        "t2_limit": limit_plain(model.t2_limit),
        "q_limit": limit_plain(model.q_limit),
        "joint": joint,
        "limits": {"basis": model.basis},
        "past": {
            name: None if past is None else [found.table.ids[int(row)] for row in past.nonzero()[0]]
            for name, past in flags.items()
        },
        "left_out": {
            "samples": [
                {"sample": table.ids[row], "reason": reason}
                for row, reason in sorted((dict(table.set_aside) | found.refused).items())
            ],
            "variables": [],
        },
        "gaps": {
            "count": int(found.gaps.sum() + found.filled.sum()),
            "filled": int(found.filled.sum()),
            "policy": model.filled_with or "known variables",
            "samples": with_gaps,
        },
        "warnings": warnings,
    }
