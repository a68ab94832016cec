"""The files that `scutcher fit` writes: summary, scores, loadings, distances, treated data, residuals."""

from __future__ import annotations

import json
import math
from collections.abc import Iterable, Sequence
from pathlib import Path
from typing import Any

import numpy as np

from scutcher.core.arrays import Booleans, Floats
from scutcher.core.data.table import Table
from scutcher.core.distances.held_out_limits import HeldOutLimits
from scutcher.core.distances.limits import Limit
from scutcher.files.csv_text import csv_text
from scutcher.files.safely import write_text


def digits(value: float | None) -> str:
    """A number with 17 significant digits; empty where it is undefined."""
    return "" if value is None or not math.isfinite(value) else f"{value:.17g}"


def flag(past: Booleans | None, row: int) -> str:
    """`yes`, `no`, or empty where there is no limit."""
    return "" if past is None else ("yes" if past[row] else "no")


def component_names(k: int) -> list[str]:
    """PC1…PCk."""
    return [f"PC{a + 1}" for a in range(k)]


def write_scores(path: Path, samples: Table, scores: Floats) -> None:
    """Ids, class and property columns, PC1…PCk."""
    header = ["sample", *(c.name for c in samples.classes), *(c.header for c in samples.properties)]
    rows = (
        [
            name,
            *(column.values[row] for column in samples.classes),
            *(digits(column.values[row]) for column in samples.properties),
            *map(digits, scores[row]),
        ]
        for row, name in enumerate(samples.ids)
    )
    write_text(path, csv_text([*header, *component_names(scores.shape[1])], rows))


def write_loadings(path: Path, labels: Sequence[str], loadings: Floats) -> None:
    """One row per variable of the table; those without weight in the model have zeros."""
    rows = ([label, *map(digits, loadings[place])] for place, label in enumerate(labels))
    write_text(path, csv_text(["variable", *component_names(loadings.shape[1])], rows))


def write_distances(
    path: Path,
    ids: Sequence[str],
    columns: Iterable[tuple[str, Floats | None, Booleans | None]],
    held_out: Sequence[tuple[str, Floats | None]] = (),
) -> None:
    """t2, q, joint, and for each whether it is past its limit; then held-out ones, where there are any."""
    measured = list(columns)
    header = ["sample", *(name for name, _, _ in measured), *(f"{name}_past" for name, _, _ in measured)]
    header += [name for name, _ in held_out]
    rows = (
        [
            name,
            *("" if values is None else digits(values[row]) for _, values, _ in measured),
            *(flag(past, row) for _, _, past in measured),
            *("" if values is None else digits(values[row]) for _, values in held_out),
        ]
        for row, name in enumerate(ids)
    )
    write_text(path, csv_text(header, rows))


def write_matrix(path: Path, ids: Sequence[str], labels: Sequence[str], values: Floats) -> None:
    """Samples by variables, the ids first."""
    rows = ([name, *map(digits, values[row])] for row, name in enumerate(ids))
    write_text(path, csv_text(["sample", *labels], rows))


def held_out_plain(held: HeldOutLimits | None) -> dict[str, Any] | None:
    """Limits for new samples as JSON data."""
    if held is None:
        return None
    scale, joint = held.scale, held.joint_limit
    plain: dict[str, Any] = {
        "h0": scale and scale.h0,
        "q0": scale and scale.q0,
        "nh": scale and scale.nh,
        "nq": scale and scale.nq,
        "t2_limit": held.t2_limit.value,
        "q_limit": held.q_limit.value,
        "joint_limit": None if joint is None else joint.value,
        "level": held.level,
        "groups": held.groups,
        "method": held.method,
    }
    return plain | ({"reason": held.q_limit.reason} if held.q_limit.reason else {})


def limit_plain(limit: Limit) -> dict[str, Any]:
    """A limit as JSON data."""
    plain: dict[str, Any] = {"level": limit.level, "method": limit.method, "value": limit.value}
    if limit.reason:
        plain["reason"] = limit.reason
    return plain


def write_json(path: Path, plain: dict[str, Any]) -> None:
    """Plain data as JSON with null for what is undefined: NaN and infinity too."""
    whole = defined(plain)
    write_text(path, json.dumps(whole, indent=2, ensure_ascii=False, allow_nan=False) + "\n")


def defined(value: Any) -> Any:
    """Without NaN and infinity, and without arrays."""
    if isinstance(value, dict):
        return {str(key): defined(own) for key, own in value.items()}
    if isinstance(value, (list, tuple)):
        return [defined(own) for own in value]
    if isinstance(value, float):
        return value if math.isfinite(value) else None
    if value is None or isinstance(value, (str, bool, int)):
        return value
    return defined(_plain(value))


def _plain(value: Any) -> Any:
    if isinstance(value, np.generic):
        return value.item()
    if isinstance(value, np.ndarray):
        return value.tolist()
    raise TypeError(f"{type(value).__name__} is not plain data")
