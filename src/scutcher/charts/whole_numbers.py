"""The numbers of all components, for a chart that shows two of them."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from scutcher.charts.emphasis import ids_of_rows
from scutcher.study.evaluation.evaluation import Evaluation

Whole = Callable[[], tuple[list[str], list[list[object]]]]


def all_scores(found: Evaluation) -> Whole:
    """Every sample in the model: id, classes, properties, then all components, in original units."""
    return partial(_scores, found)


def _scores(found: Evaluation) -> tuple[list[str], list[list[object]]]:
    samples, scores = found.treated, found.model.scores
    names = ids_of_rows(found.table, found.usable.rows)
    header = ["sample", *(c.name for c in samples.classes), *(c.header for c in samples.properties)]
    header += [f"PC{a + 1}" for a in range(scores.shape[1])]
    rows: list[list[object]] = []
    for row, name in enumerate(names):
        own = [column.values[row] for column in samples.classes]
        measured = [float(column.values[row]) for column in samples.properties]
        rows.append([name, *own, *measured, *scores[row].tolist()])
    return header, rows


def all_loadings(found: Evaluation) -> Whole:
    """Every variable with all components, in the order of the axis."""
    return partial(_loadings, found)


def _loadings(found: Evaluation) -> tuple[list[str], list[list[object]]]:
    axis, loadings = found.treated.axis, found.model.loadings
    header = [axis.title or "variable", *(f"PC{a + 1}" for a in range(loadings.shape[1]))]
    return header, [[label, *loadings[place].tolist()] for place, label in enumerate(axis.labels)]
