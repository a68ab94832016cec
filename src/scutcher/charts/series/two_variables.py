"""Two variables as measured against each other, joined in the order of the series."""

from __future__ import annotations

import numpy as np

from scutcher.charts.description import Chart, Curve, Marks, nothing
from scutcher.charts.emphasis import colouring_of, ids_of_rows
from scutcher.charts.series.picture import WAITS
from scutcher.study.document.state import State
from scutcher.study.evaluation.series import Series


def two_variables(state: State, series: Series | None, channels: tuple[float, ...]) -> Chart:
    """The first two picked variables; else the two that pull most on the first component."""
    if series is None or state.table is None:
        return nothing("Two variables", WAITS)
    table = series.found.table
    axis = table.axis
    picked = [int(np.abs(axis.places() - place).argmin()) for place in channels[:2]]
    if len(picked) < 2:
        pulls = np.abs(series.found.model.loadings[:, 0])
        own = series.found.usable.columns
        order = np.argsort(-pulls, kind="stable") if len(pulls) == len(own) else np.arange(len(own))
        picked = [int(own[place]) for place in order[:2]]
    if len(picked) < 2:
        return nothing("Two variables", "There is one variable only.")
    one, two = picked
    x, y = table.values[series.rows, one], table.values[series.rows, two]
    return Chart(
        title="Two variables",
        note=f"as measured, joined by {series.order.quantity}",
        x_title=axis.name(one),
        y_title=axis.name(two),
        marks=Marks(
            x, y, series.rows, colouring_of(state).codes[series.rows], ids_of_rows(table, series.rows)
        ),
        curves=(Curve(x, y, "quiet", width=0.8),),
    )
