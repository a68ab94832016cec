"""Selected rows of a table as stretches: row by row, whoever listens would be told each time."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QItemSelection, QItemSelectionModel, QItemSelectionRange
from PySide6.QtWidgets import QAbstractItemView

from scutcher.core.arrays import Integers


def select_rows(view: QAbstractItemView, rows: Integers, most: int | None = None) -> None:
    """Select whole rows in place of those that are selected, told once.

    Parameters
    ----------
    rows : (m,) int array
        Rising.
    most : stretches that are selected at most, where the rows are known elsewhere too
    """
    model, chosen = view.model(), QItemSelection()
    last = model.columnCount() - 1
    runs = np.split(rows, np.flatnonzero(np.diff(rows) > 1) + 1) if len(rows) else []
    for run in runs[:most]:
        chosen.append(QItemSelectionRange(model.index(int(run[0]), 0), model.index(int(run[-1]), last)))
    view.selectionModel().select(chosen, QItemSelectionModel.SelectionFlag.ClearAndSelect)


def selected_rows(view: QAbstractItemView) -> list[int]:
    """The rows in which something is selected, rising."""
    rows: set[int] = set()
    for run in view.selectionModel().selection().toList():
        rows.update(range(run.top(), run.bottom() + 1))
    return sorted(rows)
