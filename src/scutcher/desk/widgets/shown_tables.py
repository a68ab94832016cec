"""The numbers of what is no chart: any table on screen, and any view that tells its numbers."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, Protocol, runtime_checkable

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QTableView, QWidget

RAW = int(Qt.ItemDataRole.UserRole) + 9
"""The role under which a cell tells its number to the last digit."""


@runtime_checkable
class CompletesItself(Protocol):
    """A table whose rows may still be coming."""

    def complete(self) -> None: ...


Numbers = tuple[list[str], list[list[object]]]


@runtime_checkable
class TellsNumbers(Protocol):
    """A view with a table behind it: a header and rows."""

    def numbers(self) -> tuple[Sequence[str], Sequence[Sequence[object]]]: ...


def source_of(widget: QWidget | None) -> QTableView | TellsNumbers | None:
    """The nearest table or view with numbers around a widget."""
    while widget is not None:
        if isinstance(widget, QTableView) or (isinstance(widget, TellsNumbers) and callable(widget.numbers)):
            return widget
        widget = widget.parentWidget()
    return None


def numbers_of(source: QTableView | TellsNumbers, selected: bool = False) -> Numbers:
    """Header and rows as they stand on screen, numbers to the last digit.

    Parameters
    ----------
    selected : only the selected rows of a table
    """
    if not isinstance(source, QTableView):
        header, rows = source.numbers()
        return list(header), [list(row) for row in rows]
    if isinstance(source, CompletesItself):
        source.complete()
    model = source.model()
    columns = [place for place in range(model.columnCount()) if not source.isColumnHidden(place)]
    across, role = Qt.Orientation.Horizontal, Qt.ItemDataRole.DisplayRole
    header = [str(model.headerData(place, across, role) or "").replace("\n", " ") for place in columns]
    chosen = source.selectionModel().selectedRows() if selected else []
    lines = sorted(index.row() for index in chosen) if selected else range(model.rowCount())
    return header, [[_cell(model, line, place) for place in columns] for line in lines]


def _cell(model: Any, row: int, column: int) -> object:
    index = model.index(row, column)
    raw = index.data(RAW)
    shown = index.data(Qt.ItemDataRole.DisplayRole)
    value = shown if raw is None else raw
    if isinstance(value, float) and value != value:
        return ""
    return "" if value is None else value


def has_selected(source: QTableView | TellsNumbers) -> bool:
    """Whether some but not all rows of a table are selected."""
    if not isinstance(source, QTableView):
        return False
    return 0 < len(source.selectionModel().selectedRows()) < source.model().rowCount()
