"""Class models as files: what fitting them on the command line and applying them leaves in a folder."""

from __future__ import annotations

from itertools import combinations
from pathlib import Path
from typing import Any

import numpy as np

from scutcher import __version__
from scutcher.core.data.table import Table
from scutcher.core.errors import TableError
from scutcher.core.groups.acceptance import Acceptance
from scutcher.core.models.pca.saved_model import Projected, SavedModel
from scutcher.core.words import plain_numbers
from scutcher.files.class_models_json import write_class_models
from scutcher.files.csv_text import csv_text
from scutcher.files.results import digits, held_out_plain, write_json
from scutcher.files.safely import make_folder, write_text
from scutcher.study.evaluation.class_models import ClassModels

Named = list[tuple[str, SavedModel]]


@plain_numbers()
def write_class_fit(folder: Path, found: ClassModels) -> list[Path]:
    """Write model.json, assignments.csv, acceptance.csv, powers.csv and summary.json.

    Raises
    ------
    FileError
        The folder cannot be made or written to.
    """
    make_folder(folder)
    named = [(model.name, model.saved) for model in found.models]
    write_class_models(folder / "model.json", found.column.name, named)
    texts = {
        "assignments.csv": _assignments(found.names, found.table.ids, found.acceptance, found.column.values),
        "acceptance.csv": _acceptance(found),
        "powers.csv": _powers(found),
    }
    for name, text in texts.items():
        write_text(folder / name, text)
    write_json(folder / "summary.json", _summary(found))
    return [folder / name for name in ("model.json", *texts, "summary.json")]


def _assignments(names: Any, ids: Any, acceptance: Acceptance, labels: Any = None) -> str:
    """Which classes accept each sample, the nearest, and its distance over each limit."""
    header = ["sample", *([] if labels is None else ["class"]), "belongs_to", "nearest"]
    header += [f"distance {name}" for name in names]
    inside, nearest = acceptance.inside, acceptance.nearest
    rows = []
    for row, name in enumerate(ids):
        mine = " + ".join(one for place, one in enumerate(names) if inside[row, place])
        near = names[nearest[row]] if nearest[row] >= 0 else ""
        cells = [name, *([] if labels is None else [labels[row]]), mine, near]
        rows.append([*cells, *(digits(value) for value in acceptance.ratios[row])])
    return csv_text(header, rows)


def _acceptance(found: ClassModels) -> str:
    """How many samples of each class (rows) each model (columns) accepts, own ones held out."""
    counts, sizes = found.acceptance.numbers()
    rows = ([name, int(sizes[at]), *map(int, counts[at])] for at, name in enumerate(found.names))
    return csv_text(["class", "samples", *found.names], rows)


def _powers(found: ClassModels) -> str:
    """Modelling power of each class, discriminating power of each two that have the same variables."""
    header: list[str] = ["variable"]
    columns: list[Any] = []
    labels = found.models[0].saved.treated_labels
    modelling: dict[int, Any] = {}
    pairs = []
    for one, two in combinations(range(len(found.models)), 2):
        try:
            modelling[one], modelling[two], power = found.powers(one, two)
        except TableError:
            continue
        pairs.append((f"discriminating {found.names[one]} / {found.names[two]}", power))
    for place, power in sorted(modelling.items()):
        header.append(f"modelling {found.names[place]}")
        columns.append(power)
    for name, power in pairs:
        header.append(name)
        columns.append(power)
    rows = ([label, *(digits(column[at]) for column in columns)] for at, label in enumerate(labels))
    return csv_text(header, rows if columns else [])


def _summary(found: ClassModels) -> dict[str, Any]:
    shares, acceptance = found.acceptance.table(), found.acceptance
    one, several, none, other = acceptance.verdicts()
    ids = found.table.ids
    return {
        "scutcher": __version__,
        "kind": "class-models",
        "column": found.column.name,
        "classes": list(found.names),
        "samples": {model.name: model.saved.samples for model in found.models},
        "components": {model.name: model.k for model in found.models},
        "held_out": {model.name: held_out_plain(model.saved.held_out) for model in found.models},
        "sensitivity": {name: _known(shares[at, at]) for at, name in enumerate(found.names)},
        "specificity": {
            name: {
                row: _known(1.0 - shares[place, at]) for place, row in enumerate(found.names) if place != at
            }
            for at, name in enumerate(found.names)
        },
        "belong_to_one": one,
        "belong_to_several": several,
        "belong_to_none": none,
        "belong_to_another": other,
        "too_few": list(found.too_few.values()),
        "left_out": [{"sample": ids[row], "reason": why} for row, why in sorted(found.left_out.items())],
        "warnings": [*found.table.origin.remarks, *found.too_few.values()],
    }


def _known(value: float) -> float | None:
    return float(value) if np.isfinite(value) else None


@plain_numbers()
def write_class_applied(
    folder: Path, models: Named, table: Table, acceptance: Acceptance, every: list[Projected]
) -> list[Path]:
    """Write assignments.csv (`belongs_to`, `nearest`, a distance for each class) and summary.json."""
    make_folder(folder)
    names = [name for name, _ in models]
    write_text(folder / "assignments.csv", _assignments(names, table.ids, acceptance))
    one, several, none, _ = acceptance.verdicts()
    refused = {row: reason for found in every for row, reason in found.refused.items()}
    write_json(
        folder / "summary.json",
        {
            "scutcher": __version__,
            "kind": "class-models",
            "classes": names,
            "samples": int(acceptance.known.sum()),
            "belong_to_one": one,
            "belong_to_several": several,
            "belong_to_none": none,
            "left_out": {
                "samples": [{"sample": table.ids[row], "reason": why} for row, why in sorted(refused.items())]
            },
            "warnings": [
                *table.origin.remarks,
                *dict.fromkeys(note for found in every for note in found.notes),
            ],
        },
    )
    return [folder / name for name in ("assignments.csv", "summary.json")]
