"""The file as found: its first rows, each told apart as header, units, data, or not read."""

from __future__ import annotations

from dataclasses import replace

from PySide6.QtCore import QPoint, Qt, Signal
from PySide6.QtGui import QColor, QFont
from PySide6.QtWidgets import QAbstractItemView, QMenu, QTableWidget, QTableWidgetItem, QWidget

from scutcher.charts import colours
from scutcher.files.layout.reading import Reading
from scutcher.files.looking import Found


class AsFound(QTableWidget):
    """Cells with the row numbers of the file; a click on a row says what it is."""

    said = Signal(object)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.setSelectionMode(QAbstractItemView.SelectionMode.NoSelection)
        self.setShowGrid(False)
        self.setWordWrap(False)
        self.horizontalHeader().hide()
        self.verticalHeader().setDefaultSectionSize(20)
        self.verticalHeader().setDefaultAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        self.verticalHeader().setToolTip("Click a row's number to say what it is")
        self.verticalHeader().setSectionsClickable(True)
        self.verticalHeader().sectionClicked.connect(self.ask_what_it_is)
        self.setContextMenuPolicy(Qt.ContextMenuPolicy.CustomContextMenu)
        self.customContextMenuRequested.connect(lambda place: self.ask_what_it_is(self.rowAt(place.y())))
        self.reading = Reading()
        self.numbers: list[int] = []

    def show_found(self, found: Found, reading: Reading | None, unread: frozenset[int] = frozenset()) -> None:
        """Show the first rows of a file as they are read."""
        self.reading = reading or Reading()
        self.numbers = [number for number, _ in found.rows]
        rows = [cells for _, cells in found.rows]
        if not rows and found.lines:
            rows = [(line,) for line in found.lines.splitlines()[:60]]
            self.numbers = list(range(1, len(rows) + 1))
        self.setRowCount(len(rows))
        self.setColumnCount(max(map(len, rows), default=0))
        self.setVerticalHeaderLabels([str(number) for number in self.numbers])
        for row, cells in enumerate(rows):
            kind = self.kind_of(self.numbers[row], unread) if reading is not None else "data"
            for column, text in enumerate(cells):
                item = QTableWidgetItem(text[:60])
                _dress(item, kind)
                self.setItem(row, column, item)
        for column in range(self.columnCount()):
            self.setColumnWidth(column, 76 if found.rows else 420)

    def kind_of(self, number: int, unread: frozenset[int] = frozenset()) -> str:
        """What a row of the file is: header, units, data or other."""
        read = self.reading
        if read.header and number in read.header:
            return "header"
        if read.units == number:
            return "units"
        low = max((*(read.header or ()), read.units or 0, (read.first or 1) - 1))
        past = number <= low or (read.last is not None and number > read.last)
        return "other" if past or number in unread else "data"

    def ask_what_it_is(self, row: int) -> None:
        """A small menu of what a row may be."""
        if not 0 <= row < len(self.numbers):
            return
        menu = self.menu_of(row)
        menu.exec(self.viewport().mapToGlobal(QPoint(8, self.rowViewportPosition(row) + self.rowHeight(row))))

    def menu_of(self, row: int) -> QMenu:
        """The menu of a row."""
        number = self.numbers[row]
        menu = QMenu(self)
        for words, said in (
            (f"Row {number} is the header", Reading(header=(number,))),
            (f"Row {number} holds units", Reading(units=number)),
            (f"The data begin in row {number}", Reading(first=number)),
            (f"The data end in row {number}", Reading(last=number)),
            ("There is no header", replace(Reading(), header=())),
        ):
            menu.addAction(words).triggered.connect(lambda _=False, said=said: self.said.emit(said))
        return menu


def _dress(item: QTableWidgetItem, kind: str) -> None:
    """Header bold, units slanted, what is not read pale."""
    font = QFont(item.font())
    font.setBold(kind == "header")
    font.setItalic(kind == "units")
    item.setFont(font)
    if kind == "other":
        item.setForeground(QColor(colours.FADED))
    item.setToolTip({"header": "header", "units": "units", "other": "not read", "data": "data"}[kind])
