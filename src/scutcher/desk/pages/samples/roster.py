"""The roster on screen: sort, filter, edit in place, fill down, paste; its selection is the pick."""

from __future__ import annotations

from collections.abc import Callable, Iterable

import numpy as np
from PySide6.QtCore import QEvent, QSignalBlocker, Qt
from PySide6.QtGui import QFontMetrics, QKeyEvent, QKeySequence
from PySide6.QtWidgets import QAbstractItemView, QApplication, QHeaderView, QTableView, QWidget

from scutcher.core.arrays import Floats
from scutcher.desk.context import Desk, follow
from scutcher.desk.deferred import Soon
from scutcher.desk.pages.samples.roster_model import RosterModel, figure
from scutcher.desk.widgets.panel import quiet_table
from scutcher.desk.widgets.row_runs import select_rows, selected_rows

CELL_AIR, HEADING_AIR, MARK_AIR, CHIP_AIR, WIDEST = 18, 19, 8, 18, 160  # pixels
MEASURED, FIGURES, LONGEST = 2000, 200, 200
"""For the width of a column: words and figures that are looked at; of the longest so many are measured."""
MOST_RUNS = 2000  # stretches of picked rows that are marked: more than anybody can see; the pick is whole


class Roster(QTableView):
    """The table of samples."""

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.desk = desk
        self._picking = False
        self.source = RosterModel(desk, self)
        self.setModel(self.source)
        self.setSortingEnabled(True)
        self.sortByColumn(0, Qt.SortOrder.AscendingOrder)
        quiet_table(self)
        self.verticalHeader().setSectionResizeMode(QHeaderView.ResizeMode.Fixed)
        self.source.figures_arrived.connect(self._on_figures)
        self.setHorizontalScrollMode(QAbstractItemView.ScrollMode.ScrollPerPixel)
        self.selectionModel().selectionChanged.connect(self._on_selected)
        self.redraw = Soon(self.refresh, self)
        follow(self, desk.study, self._on_study)
        follow(self, desk.live, self._on_live)
        follow(self, desk.selection, self._on_selection)
        self._fit_columns(range(len(self.source.columns)))

    def refresh(self) -> None:
        """Show the study as it is; the pick stays."""
        for part in self.parts():
            part()

    def parts(self) -> tuple[Callable[[], None], ...]:
        """What shows the study as it is, one after the other."""
        return self._reload, lambda: self._on_figures(range(len(self.source.columns)))

    def _reload(self) -> None:
        with QSignalBlocker(self.selectionModel()):
            self.source.reload()

    def _on_figures(self, places: Iterable[int]) -> None:
        self._fit_columns(places)
        self.show_pick()

    def show_pick(self) -> None:
        """Select the rows of the picked samples."""
        lines = self.source.lines_of(self.desk.selection.look.picked)
        with QSignalBlocker(self.selectionModel()):
            select_rows(self, lines, MOST_RUNS)
        self.viewport().update()
        if len(lines):
            self.scrollTo(self.source.index(int(lines[0]), 0))

    def selected_rows(self) -> list[int]:
        """The rows of the table that are selected, from the top of the screen."""
        lines = selected_rows(self)
        return self.source.rows[lines].tolist() if lines else []

    def fill_down(self) -> bool:
        """Write the current column's top selected value into all selected rows."""
        rows, column = self.selected_rows(), self.currentIndex().column()
        if len(rows) < 2 or column < 0:
            return False
        top = self.source.index(self.source.line_of(rows[0]), column).data(Qt.ItemDataRole.EditRole)
        return self.source.write(column, tuple(rows), (str(top),) * len(rows))

    def paste(self, text: str) -> bool:
        """Write lines of a spreadsheet column into the rows from the current one on."""
        lines = [line.split("\t")[0] for line in text.rstrip("\n").splitlines()]
        start = self.currentIndex()
        rows = self.source.rows[max(start.row(), 0) : start.row() + len(lines)].tolist()
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
        asked = isinstance(event, QKeyEvent) and event.matches(QKeySequence.StandardKey.Paste)
        if asked and event.type() == QEvent.Type.ShortcutOverride:
            event.accept()
            return True
        return super().event(event)

    def leaveEvent(self, event: QEvent) -> None:
        """Nothing is hovered here any more."""
        super().leaveEvent(event)
        self.desk.selection.change(hovered=None)

    def _fit_columns(self, places: Iterable[int]) -> None:
        """As wide as the longest cell, the chip and the sort mark need, within reason."""
        self.ensurePolished()  # in its own letters
        metrics, of_headings = QFontMetrics(self.font()), QFontMetrics(self.horizontalHeader().font())
        for place in places:
            column, cells = self.source.columns[place], self.source.cells[place]
            number = isinstance(cells, np.ndarray)
            texts = set(map(figure, telling(cells)) if isinstance(cells, np.ndarray) else cells[:MEASURED])
            longest = sorted(texts, key=len)[-LONGEST:]
            widest = max(map(metrics.horizontalAdvance, longest), default=0)
            heading = of_headings.horizontalAdvance(column.header) + HEADING_AIR
            if number:  # the sort mark stands at the right, as figures do
                heading += MARK_AIR
            chip_width = CHIP_AIR if column.kind == "id" else 0
            self.setColumnWidth(place, min(max(widest + CELL_AIR + chip_width, heading), WIDEST))

    def _on_study(self, changed: frozenset[str]) -> None:
        if changed & {"table", "colour_by"}:
            self.redraw()

    def _on_live(self, changed: frozenset[str]) -> None:
        if changed & {"checked", "evaluation"} and not self.source.is_current:
            self.redraw()

    def _on_selection(self, changed: frozenset[str]) -> None:
        if "picked" in changed and not self._picking:
            self.show_pick()

    def _on_selected(self) -> None:
        self._picking = True
        self.desk.selection.pick(self.selected_rows())
        self._picking = False


def telling(values: Floats) -> list[float]:
    """Those of a column, (n,), that are the longest when written: the first, the extremes, and near zero."""
    known = values[np.isfinite(values)]
    parts = [part for part in (known[known < 0.0], known[known > 0.0]) if len(part)]
    ends = [float(end) for part in parts for end in (part.min(), part.max())]
    return [*map(float, known[:FIGURES]), *ends]
