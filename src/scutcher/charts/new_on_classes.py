"""New samples on the models of classes: hollow marks, a line for each, and how many belong where."""

from __future__ import annotations

import numpy as np

from scutcher.charts.class_models import SMALL, Line, where
from scutcher.charts.description import Marks
from scutcher.charts.overlays import NEW, NEW_CODE
from scutcher.core.words import counted
from scutcher.study.evaluation.class_models import ClassModels, NewOnClasses


def new_marks(new: NewOnClasses, one: int, two: int) -> Marks:
    """Their distances to two models (by place), each over its limit, log₁₀; keys from NEW on."""
    ratios = new.acceptance.ratios[:, [one, two]]
    there = np.flatnonzero(np.isfinite(ratios).all(axis=1))
    x, y = np.log10(np.maximum(ratios[there], SMALL)).T
    names = tuple(new.table.ids[row] for row in there.tolist())
    return Marks(x, y, NEW + there, np.full(len(there), NEW_CODE, dtype=np.intp), names)


def new_lines(found: ClassModels, new: NewOnClasses) -> list[Line]:
    """A line for each new sample, with its row among them; those that belong to none first."""
    acceptance = new.acceptance
    labelled = next((c.values for c in new.table.classes if c.name == found.column.name), None)
    rows = np.flatnonzero(acceptance.known)
    rows = rows[np.argsort(acceptance.counts[rows] > 0, kind="stable")]
    near = acceptance.nearest[rows]
    ratios = acceptance.ratios[rows, near].tolist()
    lines: list[Line] = []
    for row, belongs, other, ratio in zip(
        rows.tolist(), where(found.names, acceptance, rows), near.tolist(), ratios, strict=True
    ):
        label = "new" if labelled is None else labelled[row] or "new"
        lines.append((row, (new.table.ids[row], label, belongs, found.names[other], ratio)))
    return lines


def new_words(new: NewOnClasses) -> str:
    """How many of them belong where."""
    one, several, none, _ = new.acceptance.verdicts()
    among = f"{counted(one)} of {counted(new.table.ids)} to one"
    others = f"{counted(several)} to several, {counted(none)} to none"
    lost = f", {counted(new.refused)} not judged" if new.refused else ""
    return f"; new ({new.table.name}): {among}, {others}{lost}"
