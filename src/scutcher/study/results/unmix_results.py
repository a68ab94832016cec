"""Amounts and shapes as files: what `scutcher unmix` leaves in its folder."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import Any

import numpy as np

from scutcher import __version__
from scutcher.core.arrays import Floats
from scutcher.core.data.table import Table
from scutcher.core.unmixing.alternating import Unmixed
from scutcher.core.unmixing.shape_sums import ShapeSums
from scutcher.core.unmixing.turning import Turned, at_largest_one
from scutcher.core.unmixing.two_shapes import TwoRange
from scutcher.files.csv_text import csv_text
from scutcher.files.results import digits, write_json, write_matrix
from scutcher.files.safely import make_folder, write_text

SURE = 1.959963984540054
"""Standard errors to each side of a 95 % band."""

OPEN = 0.1
"""Width above which a shape is not determined."""


def write_sums(
    folder: Path, table: Table, names: Sequence[str], shapes: Floats, found: ShapeSums, how: dict[str, Any]
) -> list[Path]:
    """Amounts of given shapes with their 95 % bands, what is left over, and whether one more is needed."""
    low = np.where(found.at_bound, 0.0, found.amounts - SURE * np.nan_to_num(found.errors))
    high = found.amounts + SURE * np.where(found.at_bound, found.bounds, found.errors)
    leftover = found.leftover
    summary = {
        **how,
        "samples": len(table.ids),
        "shapes": list(names),
        "misfit": found.misfit,
        "noise_window": found.noise.window,
        "another_shape": {
            "needed": found.another_is_needed,
            "z": None if leftover is None else leftover.z,
            "limit": 2.326,
        },
        "bands": "95 %, by the correlated noise of these spectra; of an amount at zero only the upper end",
    }
    return _write(folder, table, names, found.amounts, (low, high), shapes, found.residuals, summary)


def write_unmixed(
    folder: Path, table: Table, found: Unmixed, opened: TwoRange | Turned, how: dict[str, Any]
) -> list[Path]:
    """Shapes and amounts found without references, with how far they could turn."""
    amounts, shapes = at_largest_one(found)
    names = [f"shape {place + 1}" for place in range(len(shapes))]
    exact = isinstance(opened, TwoRange)
    low, high = opened.amounts_low, opened.amounts_high
    if isinstance(opened, TwoRange) and _is_turned(shapes, opened):
        low, high = low[:, ::-1], high[:, ::-1]
    summary = {
        **how,
        "samples": len(table.ids),
        "shapes": names,
        "state": found.state,
        "collapsed": found.said or None,
        "rounds": found.rounds,
        "misfit": found.misfit,
        "leftover": found.leftover,
        "range": "exact" if exact else "lower bound",
        "width": opened.width,
        "determined": opened.width <= OPEN,
        "bands": "how far the amounts could turn with shapes that explain the data as well",
    }
    low, high = np.minimum(low, amounts), np.maximum(high, amounts)
    residuals = table.values - amounts @ shapes
    return _write(folder, table, names, amounts, (low, high), shapes, residuals, summary)


def _is_turned(shapes: Floats, opened: TwoRange) -> bool:
    """Whether the first shape is the second of the range."""
    middle = 0.5 * (opened.low + opened.high)
    away = np.linalg.norm(shapes[0] - middle, axis=1)
    return bool(away[1] < away[0])


def _write(
    folder: Path,
    table: Table,
    names: Sequence[str],
    amounts: Floats,
    band: tuple[Floats, Floats],
    shapes: Floats,
    residuals: Floats,
    summary: dict[str, Any],
) -> list[Path]:
    make_folder(folder)
    header = ["sample"]
    for name in names:
        header += [name, f"{name} low", f"{name} high"]
    rows = []
    for row, sample in enumerate(table.ids):
        cells = [sample]
        for place in range(len(names)):
            cells += [digits(values[row, place]) for values in (amounts, *band)]
        rows.append(cells)
    write_text(folder / "amounts.csv", csv_text(header, rows))
    labels = table.axis.labels
    lines = ([label, *map(digits, shapes[:, place])] for place, label in enumerate(labels))
    write_text(folder / "shapes.csv", csv_text(["variable", *names], lines))
    write_matrix(folder / "residuals.csv", table.ids, labels, residuals)
    write_json(folder / "summary.json", {"scutcher": __version__, **summary})
    return [folder / name for name in ("amounts.csv", "shapes.csv", "residuals.csv", "summary.json")]
