"""Variables against each other: two of them as a plane, all of them as a picture of correlations."""

from __future__ import annotations

import numpy as np

from scutcher.charts.description import Chart, Grid, Marks, nothing
from scutcher.charts.emphasis import colouring_of, ids_of_rows
from scutcher.charts.words import with_minus
from scutcher.core.arrays import Floats
from scutcher.core.data.table import Table
from scutcher.core.numeric.correlation import correlations
from scutcher.core.numeric.runs import means_of_tiles
from scutcher.core.words import count_of, shown
from scutcher.study.document.state import State

MOST = 400
"""Variables on the picture of correlations; of more, every second, third … is shown, and said."""

MOST_ROWS, MOST_COLUMNS = 1000, 2000
"""Rows and columns of the picture of all samples; of more, means of neighbours are shown, and said."""


def scatter(state: State, across: int, up: int) -> Chart:
    """Two variables as brought in, a mark for each sample that is not set aside."""
    table = state.table
    if table is None or max(across, up) >= len(table.axis):
        return nothing("Two variables", "Select two variables in the table.")
    rows = table.used_rows()
    x, y = table.values[rows, across], table.values[rows, up]
    known = np.isfinite(x) & np.isfinite(y)
    rows, x, y = rows[known], x[known], y[known]
    varies = len(x) > 1 and np.ptp(x) > 0 and np.ptp(y) > 0
    likeness = f"r = {shown(np.corrcoef(x, y)[0, 1], '.3f')}, " if varies else ""
    return Chart(
        title="Two variables",
        note=with_minus(f"{likeness}{count_of(x)}"),
        x_title=table.axis.name(across),
        y_title=table.axis.name(up),
        marks=Marks(x, y, rows, colouring_of(state).codes[rows], ids_of_rows(table, rows)),
    )


def correlation_picture(table: Table | None) -> Chart:
    """Correlations of all variables that are not left out, as brought in."""
    if table is None:
        return nothing("Correlations", "They appear with the first data.")
    columns = table.used_columns()
    every = -(-len(columns) // MOST)
    columns = columns[::every]
    places = table.axis.places()[columns]
    found = correlations(table.values[np.ix_(table.used_rows(), columns)])
    note = "red −1, white 0, blue +1" + (f"; one of {every} variables is shown" if every > 1 else "")
    return Chart(
        title="Correlations",
        note=note,
        x_title=table.axis.title,
        y_title=table.axis.title,
        grid=Grid(places, places, found, -1.0, 1.0, signed=True),
        tick_names=() if table.axis.ordered else tuple(table.axis.labels[c] for c in columns),
    )


def sample_picture(table: Table | None) -> Chart:
    """Every sample as a row of a picture, in run order, as brought in."""
    if table is None:
        return nothing("Signals", "Drop a file here, or press Ctrl+O.")
    columns = table.used_columns()
    tall, wide = samples_a_row(len(table.values)), -(-len(columns) // MOST_COLUMNS) or 1
    values = means_of_tiles(table.values, columns, tall, wide)
    known = values[np.isfinite(values)]
    low, high = np.quantile(known, (0.005, 0.995)) if known.size else (0.0, 1.0)
    return Chart(
        title="Signals",
        note=with_minus(f"{_tiles(tall, wide)}; white {shown(low, '.3g')} to black {shown(high, '.3g')}"),
        x_title=table.axis.title,
        y_title="run order",
        grid=Grid(
            _middles(table.axis.places()[columns], wide),
            _middles(np.arange(1.0, len(table.values) + 1.0), tall),
            values,
            float(low),
            float(high),
        ),
    )


def samples_a_row(n: int) -> int:
    """How many samples a row of the picture of all samples stands for."""
    return -(-n // MOST_ROWS) or 1


def _tiles(tall: int, wide: int) -> str:
    rows = "every sample a row" if tall == 1 else f"each row the mean of {tall} samples"
    return rows if wide == 1 else f"{rows}, each column that of {wide} channels"


def _middles(places: Floats, run: int) -> Floats:
    """The mean place of each run of so many."""
    return means_of_tiles(places[:, np.newaxis], np.zeros(1, dtype=np.intp), run, 1)[:, 0]
