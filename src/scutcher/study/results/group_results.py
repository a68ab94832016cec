"""Classes as files: what `scutcher groups` leaves in its folder."""

from __future__ import annotations

from itertools import combinations
from pathlib import Path
from typing import Any

import numpy as np

from scutcher import __version__
from scutcher.core.arrays import Floats
from scutcher.core.groups.class_separation import between_within
from scutcher.core.words import plain_numbers
from scutcher.files.csv_text import csv_text
from scutcher.files.results import digits, write_json
from scutcher.files.safely import make_folder, write_text
from scutcher.study.evaluation.grouping import Grouping, HeldOutGroups


@plain_numbers()
def write_groups(folder: Path, grouping: Grouping, held: HeldOutGroups) -> list[Path]:
    """Write assignments.csv, mixups.csv, centres.csv, differences.csv, ratios.csv and summary.json.

    Raises
    ------
    FileError
        The folder cannot be made or written to.
    """
    make_folder(folder)
    k, names = held.assignment.k, [grouping.name(code) for code in grouping.present]
    mixups = held.assignment.mixups(k, len(grouping.column.levels))
    among = np.ix_(grouping.present, grouping.present)
    texts = {
        "assignments.csv": _assignments(grouping, held),
        "mixups.csv": _square(names, mixups[among]),
        "centres.csv": _square(names, grouping.distances),
        "differences.csv": _differences(grouping),
        "ratios.csv": _ratios(grouping),
    }
    for name, text in texts.items():
        write_text(folder / name, text)
    write_json(folder / "summary.json", summary(grouping, held))
    return [folder / name for name in (*texts, "summary.json")]


def _assignments(grouping: Grouping, held: HeldOutGroups) -> str:
    """Held out, first repeat."""
    given = held.assignment.assigned[0, held.assignment.k - 1]
    rows = []
    for row, name in enumerate(grouping.found.treated.ids):
        code, to = int(grouping.codes[row]), int(given[row])
        label = grouping.name(code) if code >= 0 else ""
        right = "" if to < 0 else "yes" if to == code else "no"
        rows.append([name, label, grouping.name(to) if to >= 0 else "", right])
    return csv_text(["sample", "class", "assigned", "right"], rows)


def _square(names: list[str], values: Floats) -> str:
    rows = ([name, *map(digits, values[place])] for place, name in enumerate(names))
    return csv_text(["class", *names], rows)


def _differences(grouping: Grouping) -> str:
    header, columns = ["variable"], []
    for one, two in combinations(grouping.present.tolist(), 2):
        found = grouping.difference(one, two)
        pair = f"{grouping.name(one)} − {grouping.name(two)}"
        header += [pair, f"{pair} low", f"{pair} high"]
        columns += [found.difference, found.low, found.high]
    labels = grouping.found.treated.axis.labels
    rows = ([label, *(digits(column[place]) for column in columns)] for place, label in enumerate(labels))
    return csv_text(header, rows)


def _ratios(grouping: Grouping) -> str:
    """Between over within variance of each variable."""
    labels = grouping.found.treated.axis.labels
    rows = ([label, digits(ratio)] for label, ratio in zip(labels, grouping.ratios, strict=True))
    return csv_text(["variable", "ratio"], rows)


def summary(grouping: Grouping, held: HeldOutGroups) -> dict[str, Any]:
    """The figures as plain data; what is undefined is null."""
    found, settings, assignment = grouping.found, grouping.settings, held.assignment
    k, ids = assignment.k, grouping.found.treated.ids
    error = assignment.error[k - 1]
    sizes = {grouping.name(code): len(grouping.rows(code)) for code in grouping.present.tolist()}
    doubtful = assignment.doubtful
    rows, lies_with = doubtful.rows.tolist(), doubtful.lies_with().tolist()
    warnings = [*found.table.origin.remarks]
    warnings += [
        f"The class {grouping.name(code)} has one sample or group of replicates; it is not judged."
        for code in assignment.alone
    ]
    warnings += [held.why_not] if held.why_not else []
    return {
        "scutcher": __version__,
        "column": grouping.column.name,
        "classes": list(sizes),
        "sizes": sizes,
        "samples": len(ids),
        "judged": int(assignment.judged.sum()),
        "components": k,
        "method": settings.method,
        "neighbours": settings.neighbours if settings.method == "nearest-neighbours" else None,
        "distance": "standard deviations within classes" if grouping.metric == "within" else "scores",
        "share_right": float(assignment.share_right[k - 1]),
        "share_right_error": float(error) if np.isfinite(error) else None,
        "guessing": assignment.guessing,
        "by_components": assignment.share_right,
        "by_components_error": assignment.error,
        "best_components": assignment.best(),
        "p_value": held.p_value,
        "permutations": settings.permutations,
        "clearest_pair": [place + 1 for place in grouping.pair],
        "doubtful": [ids[row] for row in rows],
        "doubtful_assigned": {ids[row]: grouping.name(to) for row, to in zip(rows, lies_with, strict=True)},
        "not_judged": [grouping.name(code) for code in assignment.alone],
        "ratios_of_components": between_within(found.model.scores, grouping.codes),
        "warnings": warnings,
    }
