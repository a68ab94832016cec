"""Amounts and shapes as files: what `scutcher unmix` leaves in its folder, and `apply` with its model."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import Any

import msgspec
import numpy as np

from scutcher import __version__
from scutcher.core.arrays import Floats
from scutcher.core.data.table import Table
from scutcher.core.recipes.unmix_settings import UnmixSettings
from scutcher.core.unmixing.mixture import Mixture
from scutcher.core.unmixing.saved_mixture import NewAmounts, SavedMixture
from scutcher.core.unmixing.shape_sums import PAST
from scutcher.core.words import plain_numbers
from scutcher.files.csv_text import csv_text
from scutcher.files.mixture_json import write_mixture_model
from scutcher.files.results import digits, limit_plain, write_json, write_matrix
from scutcher.files.safely import make_folder, write_text

FILES = ("amounts.csv", "shapes.csv", "residuals.csv", "model.json", "summary.json")
RANGES = "shape-ranges.csv"


@plain_numbers()
def write_mixture(
    folder: Path,
    table: Table,
    found: Mixture,
    settings: UnmixSettings,
    model: SavedMixture,
    treated: list[str],
) -> list[Path]:
    """Amounts with their bands, shapes, what is left over, and the model that `apply` takes."""
    make_folder(folder)
    write_text(folder / "amounts.csv", amounts_text(table, found.names, found.amounts, found.low, found.high))
    labels, written = table.axis.labels, list(FILES)
    _write_columns(folder / "shapes.csv", labels, found.names, found.shapes)
    if found.opened is not None:
        ends = [f"{name} {end}" for name in found.names for end in ("low", "high")]
        pairs = zip(found.opened.low, found.opened.high, strict=True)
        _write_columns(folder / RANGES, labels, ends, np.array([line for pair in pairs for line in pair]))
        written.append(RANGES)
    write_matrix(folder / "residuals.csv", table.ids, labels, found.residuals)
    write_mixture_model(folder / "model.json", model)
    write_json(folder / "summary.json", summary_of(table, found, settings, treated))
    return [folder / name for name in written]


def _write_columns(path: Path, labels: Sequence[str], names: Sequence[str], lines: Floats) -> None:
    """A row for each variable, a column for each of the lines (m, p)."""
    rows = zip(labels, lines.T.tolist(), strict=True)
    write_text(path, csv_text(["variable", *names], ([label, *map(digits, row)] for label, row in rows)))


def summary_of(table: Table, found: Mixture, settings: UnmixSettings, treated: list[str]) -> dict[str, Any]:
    """The figures of a mixture."""
    how = {key: value for key, value in msgspec.structs.asdict(settings).items() if key != "shapes"}
    value = found.q_limit.value
    past = [] if value is None else np.flatnonzero(found.q > value).tolist()
    plain: dict[str, Any] = {
        "scutcher": __version__,
        **how,
        "treatments": treated,
        "samples": len(table.ids),
        "variables": len(table.axis),
        "shapes": list(found.names),
        "misfit_of_samples": found.misfit,
        "q": found.q,
        "q_limit": limit_plain(found.q_limit),
        "past_limit": [table.ids[row] for row in past],
        "another_shape": {
            "needed": found.another_is_needed,
            "z": None if found.leftover is None else found.leftover.z,
            "limit": PAST,
        },
    }
    if found.sums is not None:
        plain |= {
            "misfit": found.misfit,
            "noise_window": found.sums.noise.window,
            "bands": "95 %, by the correlated noise of these spectra; at zero only the upper end",
        }
    if found.found is not None and found.opened is not None:
        own, opened = found.found, found.opened
        plain |= {
            "state": own.state,
            "collapsed": own.said or None,
            "rounds": own.rounds,
            "misfit": own.misfit,
            "leftover": own.leftover,
            "range": "exact" if opened.exact else "lower bound",
            "range_by": opened.said,
            "width": opened.width,
            "widths": opened.widths,
            "determined": opened.determined if opened.exact else None,
            "bands": "how far the amounts could turn with shapes that explain the data as well",
        }
    return plain


def amounts_text(table: Table, names: Sequence[str], amounts: Floats, low: Floats, high: Floats) -> str:
    """A row for each spectrum: each amount with the ends of its band."""
    header = ["sample"]
    for name in names:
        header += [name, f"{name} low", f"{name} high"]
    cells = np.stack([amounts, low, high], axis=2).reshape(len(amounts), -1).tolist()
    rows = ([sample, *map(digits, row)] for sample, row in zip(table.ids, cells, strict=True))
    return csv_text(header, rows)


@plain_numbers()
def write_new_amounts(folder: Path, model: SavedMixture, found: NewAmounts) -> list[Path]:
    """Amounts in new spectra, and whether more is left over than noise explains."""
    make_folder(folder)
    text = amounts_text(found.table, model.names, found.sums.amounts, found.low, found.high)
    write_text(folder / "amounts.csv", text)
    past = ["" if found.past is None else "yes" if one else "no" for one in _flags(found)]
    columns = zip(found.table.ids, found.sums.misfit.tolist(), found.q.tolist(), past, strict=True)
    rows = ([name, digits(misfit), digits(q), flag] for name, misfit, q, flag in columns)
    write_text(folder / "distances.csv", csv_text(["sample", "misfit", "q", "q_past"], rows))
    summary = {
        "scutcher": __version__,
        "samples": len(found.table.ids),
        "shapes": list(model.names),
        "rule": model.rule,
        "background": model.background,
        "q_limit": limit_plain(model.q_limit),
        "past_limit": [name for name, flag in zip(found.table.ids, past, strict=True) if flag == "yes"],
        "warnings": [*found.table.origin.remarks, *found.notes],
    }
    write_json(folder / "summary.json", summary)
    return [folder / name for name in ("amounts.csv", "distances.csv", "summary.json")]


def _flags(found: NewAmounts) -> list[bool]:
    return [False] * len(found.q) if found.past is None else found.past.tolist()
