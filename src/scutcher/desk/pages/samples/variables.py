"""The variables on screen: range, mean, spread, gaps, a small histogram; leave out and bring back."""

from __future__ import annotations

from typing import Any

import numpy as np
from PySide6.QtCore import (
    QAbstractTableModel,
    QModelIndex,
    QObject,
    QPersistentModelIndex,
    QRectF,
    QSignalBlocker,
    Qt,
)
from PySide6.QtGui import QColor, QFontMetrics, QPainter
from PySide6.QtWidgets import (
    QAbstractItemView,
    QStyledItemDelegate,
    QStyleOptionViewItem,
    QTableView,
    QWidget,
)

from scutcher.charts import colours
from scutcher.charts.roster import BINS, VariableFigures, variable_figures
from scutcher.charts.words import significant
from scutcher.core.data.axis import split_unit
from scutcher.core.data.table import Table
from scutcher.desk.context import Desk, follow
from scutcher.desk.deferred import Soon
from scutcher.desk.guard import guarded
from scutcher.desk.kept_behind import KeptBehind
from scutcher.desk.pages.samples.roster import CELL_AIR, FIGURES, telling
from scutcher.desk.widgets.figures_table import alignment
from scutcher.desk.widgets.panel import quiet_table
from scutcher.desk.widgets.row_runs import select_rows, selected_rows
from scutcher.desk.widgets.shown_tables import RAW

Index = QModelIndex | QPersistentModelIndex
HEADERS = ("variable", "unit", "low", "high", "mean", "SD", "gaps", "histogram", "state")
UNIT, LOW, GAPS, HISTOGRAM, STATE = 1, 2, 6, 7, 8
WIDTHS, LONGEST = (76, 53, 50, 52, 54, 50, 54, 88, 46), 130
"""Pixels of each column at least, and of names at most."""


class VariablesModel(QAbstractTableModel):
    """The variables of the study as rows; of very many values none until it is reloaded."""

    def __init__(self, desk: Desk, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.desk = desk
        self.table: Table | None = None
        self.figures: VariableFigures | None = None
        self._kept = KeptBehind(desk, "variables figures", variable_figures, self.reload)
        if not desk.has_much:
            self.reload()

    def reload(self) -> None:
        """Show the study as it is."""
        self.beginResetModel()
        self.table = table = self.desk.study.state.table  # until the next reload, whatever the study does
        self.figures = None
        if table is not None:
            self.figures = self._kept.of(table, (table.values, table.used_rows()), table.values.size)
        self.endResetModel()

    def rowCount(self, parent: Index = QModelIndex()) -> int:  # noqa: B008
        """Variables."""
        return 0 if parent.isValid() or self.table is None else len(self.table.axis)

    def columnCount(self, parent: Index = QModelIndex()) -> int:  # noqa: B008
        """Figures of each."""
        return 0 if parent.isValid() else len(HEADERS)

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = 0) -> Any:
        """The header words, over their cells."""
        if orientation != Qt.Orientation.Horizontal:
            return None
        if role == Qt.ItemDataRole.TextAlignmentRole:
            return int(alignment(LOW <= section <= GAPS))
        return HEADERS[section] if role == Qt.ItemDataRole.DisplayRole else None

    def data(self, index: Index, role: int = 0) -> Any:
        """Text, alignment, and the counts behind the histogram."""
        table, found = self.table, self.figures
        row, column = index.row(), index.column()
        if table is None or row >= len(table.axis):
            return None
        if role == Qt.ItemDataRole.UserRole and column == HISTOGRAM:
            return None if found is None else found.histogram[row]
        if role == Qt.ItemDataRole.ForegroundRole and row in table.left_out:
            return QColor(colours.MUTED)
        if role == Qt.ItemDataRole.TextAlignmentRole and LOW <= column <= GAPS:
            return int(alignment(True))
        if role not in (Qt.ItemDataRole.DisplayRole, RAW) or column == HISTOGRAM:
            return None
        if column == 0:
            return table.axis.name(row) if table.axis.ordered else split_unit(table.axis.labels[row])[0]
        if column == UNIT:
            return unit_of(table, row)
        if column == STATE:
            return f"left out: {table.left_out[row]}" if row in table.left_out else ""
        if found is None:
            return "…" if column != GAPS else ""
        if column == GAPS:
            return str(int(found.gaps[row]) or "")
        value = float((found.low, found.high, found.mean, found.deviation)[column - LOW][row])
        return value if role == RAW else significant(value)


def unit_of(table: Table, column: int) -> str:
    """The unit of a variable: its own, or that of the signal."""
    return table.signal_unit if table.axis.ordered else table.axis.unit_of(column)


class HistogramDelegate(QStyledItemDelegate):
    """Draws the small histogram."""

    @guarded
    def paint(self, painter: QPainter, option: QStyleOptionViewItem, index: Index) -> None:
        """A bar for each step."""
        super().paint(painter, option, index)
        counts = index.data(Qt.ItemDataRole.UserRole)
        if counts is None or not counts.any():
            return
        area = QRectF(option.rect).adjusted(4.0, 3.0, -4.0, -3.0)
        width = area.width() / BINS
        for place, share in enumerate((counts / counts.max()).tolist()):
            tall = share * area.height()
            painter.fillRect(
                QRectF(area.left() + place * width, area.bottom() - tall, width - 1.0, tall),
                QColor(colours.ACCENT),
            )


class Variables(QTableView):
    """The table of variables; its current row is the channel cursor."""

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.desk = desk
        self.source = VariablesModel(desk, self)
        self.setModel(self.source)
        self.setItemDelegateForColumn(HISTOGRAM, HistogramDelegate(self))
        quiet_table(self)
        for column, width in enumerate(WIDTHS):
            self.setColumnWidth(column, width)
        self.source.modelReset.connect(self._fit_columns)
        self._fit_columns()
        self.choose(self._picked_columns())
        self.selectionModel().currentRowChanged.connect(self._on_current)
        self.selectionModel().selectionChanged.connect(lambda now, before: self._on_chosen())
        self.redraw = Soon(self.refresh, self)
        follow(self, desk.study, lambda changed: self.redraw() if "table" in changed else None)
        follow(self, desk.selection, self._on_selection)

    def refresh(self) -> None:
        """Show the study as it is; the channels that are picked are selected."""
        with QSignalBlocker(self.selectionModel()):
            self.source.reload()
            self.choose(self._picked_columns())

    def _picked_columns(self) -> list[int]:
        table = self.source.table
        if table is None:
            return []
        picked: list[int] = np.flatnonzero(
            np.isin(table.axis.places(), self.desk.selection.look.channels)
        ).tolist()
        return picked

    def _fit_columns(self) -> None:
        """Wider where figures are longer: one of which digits are cut is another figure.

        Columns of units, of gaps and of what was left out only where there is something in them.
        """
        self.ensurePolished()
        table, found, metrics = self.source.table, self.source.figures, QFontMetrics(self.font())
        of_each = () if found is None else (found.low, found.high, found.mean, found.deviation)
        words: dict[int, list[str]] = {
            column: [significant(value) for value in telling(values)]
            for column, values in enumerate(of_each, LOW)
        }
        count = self.source.rowCount()
        words[0] = [str(self.source.index(row, 0).data()) for row in range(min(count, FIGURES))]
        for column, texts in words.items():
            widest = max(map(metrics.horizontalAdvance, texts), default=0) + CELL_AIR
            self.setColumnWidth(column, min(max(WIDTHS[column], widest), LONGEST))
        units = table is not None and (table.signal_unit if table.axis.ordered else table.axis.has_units)
        self.setColumnHidden(UNIT, not units)
        self.setColumnHidden(GAPS, found is not None and not found.gaps.any())
        self.setColumnHidden(STATE, table is None or not table.left_out)

    def selected_columns(self) -> list[int]:
        """The places of the selected variables."""
        return selected_rows(self)

    def choose(self, columns: list[int]) -> None:
        """Select variables."""
        there = np.array(columns, dtype=np.intp)
        select_rows(self, there[there < self.source.rowCount()])
        if columns:
            self.scrollTo(self.source.index(columns[0], 0), QAbstractItemView.ScrollHint.PositionAtCenter)
        self.viewport().update()

    def _on_chosen(self) -> None:
        """The selected rows are the picked channels, everywhere."""
        table = self.source.table
        if table is not None:
            places = table.axis.places()[self.selected_columns()]
            self.desk.selection.pick_channels(places.tolist())

    def _on_current(self, current: QModelIndex) -> None:
        table = self.source.table
        if table is not None and 0 <= current.row() < len(table.axis):
            self.desk.selection.change(channel=float(table.axis.places()[current.row()]))

    def _on_selection(self, changed: frozenset[str]) -> None:
        table, channel = self.source.table, self.desk.selection.look.channel
        if "channels" in changed and table is not None:
            wanted = self._picked_columns()
            if wanted != self.selected_columns():
                with QSignalBlocker(self.selectionModel()):
                    self.choose(wanted)
        if "channel" in changed and table is not None and channel is not None and not self.underMouse():
            row = int(np.abs(table.axis.places() - channel).argmin())
            self.scrollTo(self.source.index(row, 0))
