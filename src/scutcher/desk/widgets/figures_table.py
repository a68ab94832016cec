"""A table of words and figures that is read, not edited."""

from __future__ import annotations

from collections.abc import Collection, Iterable, Iterator, Sequence
from itertools import islice

from PySide6.QtCore import QItemSelectionModel, Qt, QTimer
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import QHeaderView, QTableWidget, QTableWidgetItem, QWidget

from scutcher.charts.words import significant, with_minus
from scutcher.desk.widgets.panel import quiet_table
from scutcher.desk.widgets.shown_tables import RAW

AT_ONCE, SLICE = 200, 60
"""Rows that are put in before anything is shown, and those of a slice of the rest."""

KEPT = 0.75
"""Share of the room of words that stays where room is missing."""


class FiguresTable(QTableWidget):
    """Words stand at the left, figures at the right, and each header as the column under it.

    Parameters
    ----------
    header : sequence of str
    figures : collection of int
        The columns that hold figures.
    """

    def __init__(
        self, header: Sequence[str] = (), figures: Collection[int] = (), parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        quiet_table(self)
        self.setEditTriggers(QTableWidget.EditTrigger.NoEditTriggers)
        self._rest: Iterator[tuple[int, Sequence[str | float]]] = iter(())
        self._later = QTimer(self)
        self._later.setSingleShot(True)
        self._later.setInterval(0)
        self._later.timeout.connect(self._put_some)
        self._natural: list[int] = []
        self.name_columns(header, figures)

    def name_columns(self, header: Sequence[str], figures: Collection[int]) -> None:
        """Other columns; what was in them goes. Words in brackets stand on a line of their own."""
        self.clear()
        self._rest, self._natural = iter(()), []
        self._figures = frozenset(figures)
        self.horizontalHeader().setStretchLastSection(len(header) - 1 not in self._figures)
        self.setColumnCount(len(header))
        for column, name in enumerate(header):
            item = QTableWidgetItem(name.replace(" (", "\n("))
            item.setTextAlignment(alignment(column in self._figures))
            self.setHorizontalHeaderItem(column, item)

    def show_rows(self, rows: Iterable[Sequence[str | float]]) -> None:
        """Put all rows in, in place of those that are there."""
        whole = list(rows)
        self._rest = iter(())
        if self.rowCount() > AT_ONCE:
            self.clearContents()  # or those of before would stand there until the others come
        self.setRowCount(len(whole))
        rest, is_sorted = enumerate(whole), self.isSortingEnabled()
        self.setSortingEnabled(False)  # or rows would change places while they are put in
        self._put_rows(islice(rest, None if is_sorted else AT_ONCE))
        self.setSortingEnabled(is_sorted)
        if self._has_own_widths:
            self.resizeColumnsToContents()
            self._natural = [self.columnWidth(column) for column in range(self.columnCount())]
            self._fit_words()
        if len(whole) > AT_ONCE and not is_sorted:
            self._rest = rest
            self._later.start()

    def resizeEvent(self, event: QResizeEvent) -> None:
        """Words have their room again, or less of it."""
        super().resizeEvent(event)
        self._fit_words()

    @property
    def _has_own_widths(self) -> bool:
        return self.horizontalHeader().sectionResizeMode(0) != QHeaderView.ResizeMode.Stretch

    def _fit_words(self) -> None:
        """Where a little room is missing, the longest words are cut: no figure is left of the view."""
        if not self._has_own_widths or len(self._natural) != self.columnCount():
            return
        least = [
            wide if column in self._figures else self._least_of(column, wide)
            for column, wide in enumerate(self._natural)
        ]
        room = self.viewport().width()
        for column, wide in enumerate(fitted(self._natural, least, room)):
            if wide != self.columnWidth(column):
                self.setColumnWidth(column, wide)

    def _least_of(self, column: int, wide: int) -> int:
        """What words need to be told from each other, their header whole."""
        return min(wide, max(int(KEPT * wide), self.horizontalHeader().sectionSizeHint(column)))

    def complete(self) -> None:
        """Put in now what was put off: thousands of rows come some at a time, so that nobody waits."""
        self._later.stop()
        self._put_rows(self._rest)

    def _put_rows(self, rows: Iterable[tuple[int, Sequence[str | float]]]) -> None:
        for place, row in rows:
            for column, value in enumerate(row):
                self.put(place, column, value)

    def _put_some(self) -> None:
        """Some rows more; the others after whatever else the window has to do."""
        some = list(islice(self._rest, SLICE))
        self._put_rows(some)
        if len(some) == SLICE:
            self._later.start()

    def stretch_first(self) -> None:
        """The first column takes what the others leave."""
        for column in range(self.columnCount()):
            mode = QHeaderView.ResizeMode.ResizeToContents if column else QHeaderView.ResizeMode.Stretch
            self.horizontalHeader().setSectionResizeMode(column, mode)

    def choose_row(self, row: int) -> None:
        """Select one row, whatever keys are held: `selectRow` takes Shift for "up to here"."""
        flags = QItemSelectionModel.SelectionFlag
        index = self.model().index(row, 0)
        self.selectionModel().select(index, flags.ClearAndSelect | flags.Rows)

    def cell(self, row: int, column: int) -> QTableWidgetItem:
        """A cell that is there."""
        found = self.item(row, column)
        assert found is not None
        return found

    def put(self, row: int, column: int, value: str | float) -> QTableWidgetItem:
        """One cell: words, or a figure as it is to be read, or a number."""
        text = significant(value) if isinstance(value, float) else str(value)
        is_figure = column in self._figures
        cell = _Cell(with_minus(text) if is_figure else text, value)
        cell.setTextAlignment(alignment(is_figure))
        cell.setData(RAW, value)
        cell.setToolTip("" if is_figure else text)
        self.setItem(row, column, cell)
        return cell


class _Cell(QTableWidgetItem):
    """Sorts by its value, not by how that is written."""

    def __init__(self, text: str, value: str | float) -> None:
        super().__init__(text)
        self._value = value

    def __lt__(self, other: QTableWidgetItem) -> bool:
        """For sorting."""
        theirs = other._value if isinstance(other, _Cell) else other.text()
        if isinstance(self._value, str) or isinstance(theirs, str):
            return str(self._value) < str(theirs)
        return self._value < theirs


def fitted(natural: Sequence[int], least: Sequence[int], room: int) -> list[int]:
    """Widths of columns that fit into a room, the widest cut first; as they are where no cut is enough."""
    for limit in range(max(natural, default=0), -1, -1):
        widths = [max(low, min(wide, limit)) for wide, low in zip(natural, least, strict=True)]
        if sum(widths) <= room:
            return widths
    return list(natural)


def alignment(figures: bool) -> Qt.AlignmentFlag:
    """Right for figures, left for words."""
    side = Qt.AlignmentFlag.AlignRight if figures else Qt.AlignmentFlag.AlignLeft
    return side | Qt.AlignmentFlag.AlignVCenter
