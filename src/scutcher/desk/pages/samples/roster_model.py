"""The roster as a table model: what stands in each cell, in which order, which rows, and what is written."""

from __future__ import annotations

import math
from collections.abc import Iterable, Sequence
from functools import cache
from typing import Any

import numpy as np
from PySide6.QtCore import (
    QAbstractTableModel,
    QModelIndex,
    QObject,
    QPersistentModelIndex,
    Qt,
    Signal,
)
from PySide6.QtGui import QColor, QGuiApplication, QPainter, QPixmap

from scutcher.charts import colours, palettes
from scutcher.charts.emphasis import colouring_of
from scutcher.charts.memo import same
from scutcher.charts.roster import TURN, RosterColumn, figures_of_samples, roster_columns, roster_values
from scutcher.charts.words import with_minus
from scutcher.core.arrays import Booleans, Integers
from scutcher.core.data.names import Names
from scutcher.core.data.table import Table
from scutcher.core.words import shown
from scutcher.desk.context import Desk
from scutcher.desk.kept_behind import KeptBehind
from scutcher.desk.painting.markers import marker
from scutcher.desk.widgets.figures_table import alignment
from scutcher.desk.widgets.shown_tables import RAW
from scutcher.study.document.commands.classes import FillColumn
from scutcher.study.evaluation.stability import degrees_of

DISPLAY, EDIT = int(Qt.ItemDataRole.DisplayRole), int(Qt.ItemDataRole.EditRole)
ALIGNMENT, DECORATION = int(Qt.ItemDataRole.TextAlignmentRole), int(Qt.ItemDataRole.DecorationRole)
FOREGROUND = int(Qt.ItemDataRole.ForegroundRole)
ANSWERED = frozenset({DISPLAY, EDIT, RAW, ALIGNMENT, DECORATION, FOREGROUND})
"""What a cell has an answer to, of the seven things that it is asked each time; numbers compare sooner."""

TO_THE_RIGHT = int(alignment(True))

Index = QModelIndex | QPersistentModelIndex


FIGURES = ("spread", "gaps")
"""Kinds of columns that take a pass over the values."""


class RosterModel(QAbstractTableModel):
    """The samples of the study as rows, sorted and filtered; a cell that is written into becomes a command.

    Of very many values it is empty until it is reloaded for the first time.

    Attributes
    ----------
    columns : tuple of RosterColumn
    cells : list of (n,) float arrays or texts
        By column, in the order of the table.
    rows : (m,) int array
        The row of the table at each line of the screen.
    """

    def __init__(self, desk: Desk, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.desk = desk
        self.columns: tuple[RosterColumn, ...] = ()
        self.cells: list[Any] = []
        self.rows: Integers = np.empty(0, dtype=np.intp)
        self._lines: Integers = np.empty(0, dtype=np.intp)
        self._sorted_by, self._falling, self._words = 0, False, ""
        self._figures = KeptBehind(desk, "samples figures", figures_of_samples, self._fill_figures)
        if not desk.has_much:
            self.reload()

    def reload(self) -> None:
        """Show the study as it is."""
        table = self.desk.study.state.table
        self._degrees = self._degrees_now()
        self.beginResetModel()
        self.columns = () if table is None else roster_columns(table, self._degrees is not None)
        self.cells = [self._values(table, column) for column in self.columns] if table is not None else []
        self.codes = colouring_of(self.desk.study.state).codes
        self._arrange()
        self.endResetModel()

    @property
    def is_current(self) -> bool:
        """Whether what the model says of the samples is what it says now."""
        return same(self._degrees, self._degrees_now())

    def _degrees_now(self) -> Any:
        moment = self.desk.moment
        if moment.found is None or moment.found.table is not self.desk.study.state.table:
            return None
        return degrees_of(moment.found, moment.checked)

    def _values(self, table: Table, column: RosterColumn) -> Any:
        if column.kind == "turn" and self._degrees is not None:
            return self._degrees
        if column.kind not in FIGURES:
            return roster_values(table, column)
        of = (table.values, table.used_columns(), table.replicates)
        figures = self._figures.of(table, of, table.values.size)
        values = None if figures is None else figures.gaps if column.kind == "gaps" else figures.spread
        return np.full(len(table.ids), np.nan) if values is None else values

    def _fill_figures(self) -> None:
        """What takes a pass over much data has arrived: those columns, and the order where it is by them."""
        table = self.desk.study.state.table
        places = [place for place, column in enumerate(self.columns) if column.kind in FIGURES]
        if table is None or not places or len(table.ids) != len(self._lines):
            return  # other data have come; they are read soon
        for place in places:
            self.cells[place] = self._values(table, self.columns[place])
        if self._sorted_by in places or self._words:
            self._rearrange()
        elif len(self.rows):
            last = len(self.rows) - 1
            self.dataChanged.emit(self.index(0, places[0]), self.index(last, places[-1]))
        self.figures_arrived.emit(places)

    figures_arrived = Signal(list)
    """With the columns that have them."""

    # Which rows, in which order

    def _arrange(self) -> None:
        count = len(self.cells[0]) if self.cells else 0
        rows = self._order(count)
        if self._words:
            rows = rows[self._having(self._words)[rows]]
        self.rows = rows
        self._lines = np.full(count, -1, dtype=np.intp)
        self._lines[rows] = np.arange(len(rows))

    def _order(self, count: int) -> Integers:
        """The rows sorted by the column that was asked for; gaps last, equal ones as in the table."""
        if not self.cells or self._sorted_by >= len(self.cells):
            return np.arange(count)
        values = self.cells[self._sorted_by]
        if isinstance(values, np.ndarray):
            unknown = np.isnan(values)
            keys = np.where(unknown, 0.0, -values if self._falling else values)
            return np.lexsort((keys, unknown))
        order = sorted(range(count), key=list(values).__getitem__, reverse=self._falling)
        return np.array(order, dtype=np.intp)

    def _having(self, words: str) -> Booleans:
        """Which samples have every word somewhere in their row."""
        kept = np.ones(len(self.cells[0]), dtype=bool)
        for word in words.split():
            has = np.zeros(len(kept), dtype=bool)
            for cells in self.cells:
                left = np.flatnonzero(kept & ~has)
                texts = (
                    map(figure, cells[left].tolist()) if isinstance(cells, np.ndarray) else _some(cells, left)
                )
                has[left] = [word in text.lower() for text in texts]
            kept &= has
        return kept

    def sort(self, column: int, order: Qt.SortOrder = Qt.SortOrder.AscendingOrder) -> None:
        """By value; another click turns it round."""
        self._sorted_by, self._falling = max(column, 0), order == Qt.SortOrder.DescendingOrder
        self._rearrange()

    def look_for(self, text: str) -> None:
        """Keep the samples that have these words."""
        self._words = text.lower()
        self._rearrange()

    def _rearrange(self) -> None:
        self.layoutAboutToBeChanged.emit()
        self._arrange()
        self.layoutChanged.emit()

    def line_of(self, row: int) -> int:
        """Where a row of the table stands on the screen; −1 where it does not."""
        return int(self._lines[row]) if row < len(self._lines) else -1

    def lines_of(self, rows: Sequence[int]) -> Integers:
        """Where some rows of the table stand on the screen, rising; those that do not are left out."""
        known = np.array([row for row in rows if row < len(self._lines)], dtype=np.intp)
        lines = self._lines[known]
        return np.sort(lines[lines >= 0])

    # What Qt asks

    def rowCount(self, parent: Index = QModelIndex()) -> int:  # noqa: B008
        """Samples that are shown."""
        return 0 if parent.isValid() else len(self.rows)

    def columnCount(self, parent: Index = QModelIndex()) -> int:  # noqa: B008
        """What is known of each."""
        return 0 if parent.isValid() else len(self.columns)

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = 0) -> Any:
        """The header words, over their cells."""
        if orientation != Qt.Orientation.Horizontal:
            return None
        if role == Qt.ItemDataRole.TextAlignmentRole:
            numbers = self.columns[section].kind in ("order", "property", "spread", "turn", "gaps")
            return int(alignment(numbers))
        if role == Qt.ItemDataRole.ToolTipRole and self.columns[section].kind == "turn":
            return TURN
        return self.columns[section].header if role == Qt.ItemDataRole.DisplayRole else None

    def data(self, index: Index, role: int = 0) -> Any:
        """Text, alignment, the chip of the class."""
        if role not in ANSWERED:
            return None
        row, place = int(self.rows[index.row()]), index.column()
        column, value = self.columns[place], self.cells[place][row]
        number = isinstance(self.cells[place], np.ndarray)
        if role in (DISPLAY, EDIT):
            return figure(float(value)) if number else value
        if role == RAW:
            return float(value) if number else value
        if role == ALIGNMENT and number:
            return TO_THE_RIGHT
        if role == DECORATION and column.kind == "id":
            return chip(int(self.codes[row]))
        if role == FOREGROUND and self.cells[-1][row]:
            return QColor(colours.MUTED)
        return None

    def flags(self, index: Index) -> Qt.ItemFlag:
        """Classes and properties can be edited."""
        flags = super().flags(index)
        return flags | Qt.ItemFlag.ItemIsEditable if self.columns[index.column()].editable else flags

    def setData(self, index: Index, value: Any, role: int = 0) -> bool:
        """Write one cell: a command."""
        return self.write(index.column(), (int(self.rows[index.row()]),), (str(value),))

    def write(self, column: int, rows: tuple[int, ...], values: tuple[str, ...]) -> bool:
        """Write cells of one column, by rows of the table: one command."""
        if not self.columns[column].editable:
            return False
        return self.desk.do(FillColumn(self.columns[column].name, rows, values))


def _some(cells: Any, rows: Integers) -> Iterable[str]:
    """Some cells of a column as they stand there."""
    return map(figure, cells[rows].tolist()) if isinstance(cells, np.ndarray) else Names.of(cells).take(rows)


def figure(value: float) -> str:
    """A number as the roster shows it; empty where not known."""
    return "" if math.isnan(value) else with_minus(shown(value, ".4g"))


def chip(code: int) -> QPixmap:
    """The marker of a class, small, as fine as the screen is."""
    finest = max(screen.devicePixelRatio() for screen in QGuiApplication.screens())
    return _chip(code, palettes.now(), finest)


@cache
def _chip(code: int, palette: palettes.Palette, ratio: float) -> QPixmap:
    side = math.ceil(12 * ratio)
    pixmap = QPixmap(side, side)
    pixmap.setDevicePixelRatio(ratio)
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
