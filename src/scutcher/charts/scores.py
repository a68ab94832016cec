"""The score plane: samples on two components."""

from __future__ import annotations

import numpy as np

from scutcher.charts.description import Chart, Marks, Rule, nothing
from scutcher.charts.emphasis import colouring_of, ids_of_rows
from scutcher.charts.loadings import component_title
from scutcher.charts.whole_numbers import all_scores
from scutcher.study.document.state import State
from scutcher.study.evaluation.evaluation import Evaluation


def usable_pair(found: Evaluation, pair: tuple[int, int]) -> tuple[int, int]:
    """The pair asked for, each brought down to the last component kept where it is gone."""
    last = found.model.k - 1
    return min(pair[0], last), min(pair[1], last)


def scores(state: State, found: Evaluation | None, pair: tuple[int, int]) -> Chart:
    """Scores of the samples in the model on a pair of components."""
    if found is None or state.table is None:
        return nothing("Scores", "They appear with the first model.")
    if found.model.k == 1:
        return alone(state, found)
    across, up = usable_pair(found, pair)
    rows = found.usable.rows
    values = found.model.scores
    return Chart(
        title="Scores",
        note=f"{across + 1} × {up + 1}",
        x_title=component_title(found, across),
        y_title=component_title(found, up),
        marks=Marks(
            values[:, across],
            values[:, up],
            rows,
            colouring_of(state).codes[rows],
            ids_of_rows(state.table, rows),
        ),
        rules=(Rule(0.0), Rule(0.0, vertical=True)),
        whole=all_scores(found),
    )


def alone(state: State, found: Evaluation) -> Chart:
    """One component has no plane: its scores in run order, which a drift or an event would show in."""
    assert state.table is not None
    rows = found.usable.rows
    return Chart(
        title="Scores",
        note="only one component is kept: over the run order",
        x_title="run order",
        y_title=component_title(found, 0),
        marks=Marks(
            np.asarray(rows + 1.0, dtype=np.float64),
            found.model.scores[:, 0],
            rows,
            colouring_of(state).codes[rows],
            ids_of_rows(state.table, rows),
        ),
        rules=(Rule(0.0),),
    )
