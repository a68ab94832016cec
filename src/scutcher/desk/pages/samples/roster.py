"""The roster on screen: sort, filter, edit in place, fill down, paste; its selection is the pick."""

from __future__ import annotations

import math
from typing import Any

from PySide6.QtCore import (
    QAbstractTableModel,
    QEvent,
    QItemSelection,
    QItemSelectionModel,
    QModelIndex,
    QObject,
    QPersistentModelIndex,
    QSignalBlocker,
    QSortFilterProxyModel,
    Qt,
)
from PySide6.QtGui import QColor, QFontMetrics, QKeyEvent, QKeySequence, QPainter, QPixmap
from PySide6.QtWidgets import QAbstractItemView, QApplication, QTableView, QWidget

from scutcher.charts import colours
from scutcher.charts.emphasis import colouring_of
from scutcher.charts.roster import RosterColumn, roster_columns, roster_values
from scutcher.charts.words import with_minus
from scutcher.desk.context import Desk, follow
from scutcher.desk.deferred import Soon
from scutcher.desk.painting.markers import marker
from scutcher.desk.widgets.figures_table import alignment
from scutcher.desk.widgets.panel import quiet_table
from scutcher.study.document.commands.classes import FillColumn

Index = QModelIndex | QPersistentModelIndex
CELL_AIR, HEADING_AIR, MARK_AIR, CHIP_AIR, WIDEST = 14, 19, 8, 18, 160  # pixels
MEASURED = 2000  # cells that are looked at for the width of a column


class RosterModel(QAbstractTableModel):
    """The samples of the study as rows; a cell that is written into becomes a command."""

    def __init__(self, desk: Desk, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.desk = desk
        self.columns: tuple[RosterColumn, ...] = ()
        self.cells: list[list[Any]] = []
        self.reload()

    def reload(self) -> None:
        """Show the study as it is."""
        table = self.desk.study.state.table
        self.beginResetModel()
        self.columns = () if table is None else roster_columns(table)
        self.cells = [] if table is None else [list(roster_values(table, column)) for column in self.columns]
        self.codes = colouring_of(self.desk.study.state).codes
        self.endResetModel()

    def rowCount(self, parent: Index = QModelIndex()) -> int:  # noqa: B008
        """Samples."""
        return 0 if parent.isValid() or not self.cells else len(self.cells[0])

    def columnCount(self, parent: Index = QModelIndex()) -> int:  # noqa: B008
        """What is known of each."""
        return 0 if parent.isValid() else len(self.columns)

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = 0) -> Any:
        """The header words, over their cells."""
        if orientation != Qt.Orientation.Horizontal:
            return None
        if role == Qt.ItemDataRole.TextAlignmentRole:
            numbers = self.columns[section].kind in ("order", "property", "spread", "gaps")
            return int(alignment(numbers))
        return self.columns[section].header if role == Qt.ItemDataRole.DisplayRole else None

    def data(self, index: Index, role: int = 0) -> Any:
        """Text, sort key, alignment, the chip of the class."""
        value = self.cells[index.column()][index.row()]
        column = self.columns[index.column()]
        if role in (Qt.ItemDataRole.DisplayRole, Qt.ItemDataRole.EditRole):
            return figure(value) if isinstance(value, float) else value
        if role == Qt.ItemDataRole.UserRole:
            return value
        if role == Qt.ItemDataRole.TextAlignmentRole and isinstance(value, float):
            return int(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        if role == Qt.ItemDataRole.DecorationRole and column.kind == "id":
            return chip(int(self.codes[index.row()]))
        if role == Qt.ItemDataRole.ForegroundRole and self.cells[-1][index.row()]:
            return QColor(colours.MUTED)
        return None

    def flags(self, index: Index) -> Qt.ItemFlag:
        """Classes and properties can be edited."""
        flags = super().flags(index)
        return flags | Qt.ItemFlag.ItemIsEditable if self.columns[index.column()].editable else flags

    def setData(self, index: Index, value: Any, role: int = 0) -> bool:
        """Write one cell: a command."""
        return self.write(index.column(), (index.row(),), (str(value),))

    def write(self, column: int, rows: tuple[int, ...], values: tuple[str, ...]) -> bool:
        """Write cells of one column: one command."""
        if not self.columns[column].editable:
            return False
        return self.desk.do(FillColumn(self.columns[column].name, rows, values))


class RosterSorter(QSortFilterProxyModel):
    """Sorts by value, gaps last; keeps the rows in which some cell has every word that was typed."""

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.words: list[str] = []
        self.setSortRole(Qt.ItemDataRole.UserRole)

    def look_for(self, text: str) -> None:
        """Keep the rows that have these words."""
        self.beginFilterChange()
        self.words = text.lower().split()
        self.endFilterChange()

    def filterAcceptsRow(self, row: int, parent: Index) -> bool:
        """Every word is somewhere in the row."""
        model = self.sourceModel()
        assert isinstance(model, RosterModel)
        texts = " ".join(
            figure(cells[row]) if isinstance(cells[row], float) else cells[row].lower()
            for cells in model.cells
        )
        return all(word in texts for word in self.words)

    def lessThan(self, left: Index, right: Index) -> bool:
        """Numbers by size, texts by letter."""
        a, b = left.data(Qt.ItemDataRole.UserRole), right.data(Qt.ItemDataRole.UserRole)
        if isinstance(a, float) and isinstance(b, float):
            return (math.isnan(b) and not math.isnan(a)) or a < b
        return str(a) < str(b)


class Roster(QTableView):
    """The table of samples."""

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.desk = desk
        self.source = RosterModel(desk, self)
        self.sorter = RosterSorter(self)
        self.sorter.setSourceModel(self.source)
        self.setModel(self.sorter)
        self.setSortingEnabled(True)
        self.sortByColumn(0, Qt.SortOrder.AscendingOrder)
        quiet_table(self)
        self.setHorizontalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.selectionModel().selectionChanged.connect(self._on_selected)
        self.redraw = Soon(self.refresh, self)
        follow(self, desk.study, self._on_study)
        follow(self, desk.selection, self._on_selection)
        self._fit_columns()

    def refresh(self) -> None:
        """Show the study as it is; the pick stays."""
        with QSignalBlocker(self.selectionModel()):
            self.source.reload()
        self._fit_columns()
        self.show_pick()

    def show_pick(self) -> None:
        """Select the rows of the picked samples."""
        picked = QItemSelection()
        for row in self.desk.selection.look.picked:
            index = self.sorter.mapFromSource(self.source.index(row, 0))
            if index.isValid():
                picked.select(index, index)
        flags = QItemSelectionModel.SelectionFlag
        with QSignalBlocker(self.selectionModel()):
            self.selectionModel().select(picked, flags.ClearAndSelect | flags.Rows)
        self.viewport().update()
        if self.desk.selection.look.picked and not picked.isEmpty():
            self.scrollTo(picked.indexes()[0])

    def selected_rows(self) -> list[int]:
        """The rows of the table that are selected, from the top of the screen."""
        indexes = sorted(self.selectionModel().selectedRows(), key=lambda index: index.row())
        return [self.sorter.mapToSource(index).row() for index in indexes]

    def fill_down(self) -> bool:
        """Write the current column's top selected value into all selected rows."""
        rows, column = self.selected_rows(), self.currentIndex().column()
        if len(rows) < 2 or column < 0:
            return False
        top = self.source.index(rows[0], column).data(Qt.ItemDataRole.EditRole)
        return self.source.write(column, tuple(rows), (str(top),) * len(rows))

    def paste(self, text: str) -> bool:
        """Write lines of a spreadsheet column into the rows from the current one on."""
        lines = [line.split("\t")[0] for line in text.rstrip("\n").splitlines()]
        start = self.currentIndex()
        rows = [
            self.sorter.mapToSource(self.sorter.index(row, 0)).row()
            for row in range(start.row(), min(start.row() + len(lines), self.sorter.rowCount()))
        ]
        if not rows or start.row() < 0:
            return False
        return self.source.write(start.column(), tuple(rows), tuple(lines[: len(rows)]))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Ctrl+D fills down, Ctrl+V pastes a column."""
        if event.matches(QKeySequence.StandardKey.Paste):
            self.paste(QApplication.clipboard().text())
        elif event.key() == Qt.Key.Key_D and event.modifiers() & Qt.KeyboardModifier.ControlModifier:
            self.fill_down()
        else:
            super().keyPressEvent(event)

    def event(self, event: QEvent) -> bool:
        """Our own keys come before the window's."""
        override = event.type() == QEvent.Type.ShortcutOverride and isinstance(event, QKeyEvent)
        if override and event.matches(QKeySequence.StandardKey.Paste):
            event.accept()
            return True
        return super().event(event)

    def leaveEvent(self, event: QEvent) -> None:
        """Nothing is hovered here any more."""
        super().leaveEvent(event)
        self.desk.selection.change(hovered=None)

    def _fit_columns(self) -> None:
        """As wide as the longest cell, the chip and the sort mark need, within reason."""
        metrics = QFontMetrics(self.font())
        for place, column in enumerate(self.source.columns):
            cells = self.source.cells[place][:MEASURED]
            texts = {figure(cell) if isinstance(cell, float) else cell for cell in cells}
            widest = max((metrics.horizontalAdvance(text) for text in texts), default=0)
            heading = metrics.horizontalAdvance(column.header) + HEADING_AIR
            if isinstance(cells[0], float):  # the sort mark stands at the right, as figures do
                heading += MARK_AIR
            chip_width = CHIP_AIR if column.kind == "id" else 0
            self.setColumnWidth(place, min(max(widest + CELL_AIR + chip_width, heading), WIDEST))

    def _on_study(self, changed: frozenset[str]) -> None:
        if changed & {"table", "colour_by"}:
            self.redraw()

    def _on_selection(self, changed: frozenset[str]) -> None:
        if "picked" in changed and self.selected_rows() != list(self.desk.selection.look.picked):
            self.show_pick()

    def _on_selected(self) -> None:
        self.desk.selection.pick(self.selected_rows())


def figure(value: float) -> str:
    """A number as the roster shows it; empty where not known."""
    return "" if math.isnan(value) else with_minus(f"{value:.4g}")


def chip(code: int) -> QPixmap:
    """The marker of a class, small."""
    pixmap = QPixmap(12, 12)
    pixmap.fill(Qt.GlobalColor.transparent)
    painter = QPainter(pixmap)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.translate(6.0, 6.0)
    painter.scale(9.0, 9.0)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(QColor(colours.class_colour(code)))
    painter.drawPath(marker(colours.class_shape(code)))
    painter.end()
    return pixmap
