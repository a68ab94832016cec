"""The list of treatments: searched by name or by purpose, with a picture of what each does to these data."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QSize, Qt, QTimer
from PySide6.QtGui import QColor, QIcon, QKeyEvent, QPixmap
from PySide6.QtWidgets import QLineEdit, QListWidget, QListWidgetItem, QWidget

from scutcher.charts import colours
from scutcher.charts.emphasis import colouring_of
from scutcher.charts.signals import class_means
from scutcher.core.data.table import Table
from scutcher.core.errors import InputError
from scutcher.core.recipes.chain import run_step
from scutcher.core.recipes.recipe import Step
from scutcher.core.treatments import all_treatments
from scutcher.core.treatments.base import Parameters, Treatment
from scutcher.desk.context import Desk
from scutcher.desk.trail.miniature import Miniature
from scutcher.desk.widgets.popover import Popover
from scutcher.desk.words import Words, tip
from scutcher.study.document.commands.recipe import AddStep

WIDE, PICTURE, TALL, LOOKED_AT = 560, QSize(118, 30), 420, 60
FAMILIES = (
    "scatter",
    "baseline",
    "smoothing",
    "normalise",
    "transform",
    "channels",
    "align",
    "noise",
)


def add_by_key(desk: Desk, key: str) -> bool:
    """Add a treatment at the end of the chain with settings that suit the data, and go to its knot."""
    found = desk.moment.found
    declared = all_treatments()[key]
    parameters = None if found is None else suggested(declared, found.stages[-1])
    place = len(desk.study.state.recipe.treat)
    if not desk.do(AddStep(key, parameters, place)):
        return False
    desk.selection.change(stage=place + 1)
    return True


class AddTreatment(Popover):
    """Type to narrow the list; Enter or a click adds the treatment with settings that suit the data."""

    def __init__(self, window: QWidget, desk: Desk, place: int | None = None) -> None:
        super().__init__(window, "Add a treatment")
        self.desk, self.place = desk, place
        self.setFixedWidth(WIDE)
        self.search = QLineEdit()
        self.search.setPlaceholderText("name or purpose, e.g. removes slope, sharpens overlapping bands")
        self.search.textChanged.connect(self._narrow)
        self.list = QListWidget()
        self.list.setIconSize(PICTURE)
        self.list.setFixedHeight(TALL)
        self.list.setWordWrap(False)
        self.list.itemClicked.connect(self._add)
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.note = Words("The picture is what the step makes of the class means of these data.")
        self.note.setObjectName("quiet")
        for widget in (self.search, self.list, self.note):
            self.column.addWidget(widget)
        self.search.returnPressed.connect(self._add_chosen)
        self._table = self._before()
        self._codes = self._means_codes()
        self._waiting: list[QListWidgetItem] = []
        self._timer = QTimer(self)
        self._timer.setInterval(0)
        self._timer.timeout.connect(self._draw_next)
        self._fill()

    def open_at(self, anchor: QWidget, above: bool) -> None:
        """Show it, ready to type."""
        super().open_at(anchor, above)
        self.search.setFocus()
        self._timer.start()

    def _before(self) -> Table | None:
        """The data where the step would stand, of some samples of each class."""
        found = self.desk.moment.found
        if found is None:
            return None
        stage = len(found.stages) - 1 if self.place is None else min(self.place, len(found.stages) - 1)
        table = found.stages[stage]
        rows = np.unique(np.linspace(0, len(table.ids) - 1, LOOKED_AT).astype(np.intp))
        return table.take(rows)

    def _means_codes(self) -> np.ndarray:
        found = self.desk.moment.found
        if found is None or self._table is None:
            return np.empty(0, np.intp)
        rows = np.unique(np.linspace(0, len(found.usable.rows) - 1, LOOKED_AT).astype(np.intp))
        codes: np.ndarray = colouring_of(self.desk.study.state).codes[found.usable.rows[rows]]
        return codes

    def _fill(self) -> None:
        empty = QPixmap(PICTURE)
        empty.fill(Qt.GlobalColor.transparent)
        declared = sorted(all_treatments().values(), key=lambda t: (FAMILIES.index(t.family), t.name))
        for treatment in declared:
            item = QListWidgetItem(QIcon(empty), f"{treatment.name}\n{treatment.purpose}")
            item.setData(Qt.ItemDataRole.UserRole, treatment.key)
            item.setToolTip(f"{treatment.help}\n\nSource: {treatment.source}")
            item.setSizeHint(QSize(WIDE - 60, 42))
            self.list.addItem(item)
            self._waiting.append(item)
        self._items = list(self._waiting)
        self.list.setCurrentRow(0)

    def _narrow(self, text: str) -> None:
        """Show the treatments whose name, purpose or help has all the words, the one so called first."""
        wanted, words = text.lower().strip(), text.lower().split()

        def exact(item: QListWidgetItem) -> bool:
            declared = all_treatments()[item.data(Qt.ItemDataRole.UserRole)]
            return wanted in (declared.key, declared.key.replace("-", " "), declared.name.lower())

        while self.list.count():
            self.list.takeItem(0)
        for item in sorted(self._items, key=lambda item: not exact(item)):
            self.list.addItem(item)
            declared = all_treatments()[item.data(Qt.ItemDataRole.UserRole)]
            said = (
                f"{declared.name} {declared.key} {declared.family} {declared.purpose} {declared.help}".lower()
            )
            item.setHidden(not all(word in said for word in words))
        shown = (row for row in range(self.list.count()) if not self.list.item(row).isHidden())
        self.list.setCurrentRow(next(shown, 0))

    def _draw_next(self) -> None:
        """One picture at a time, so that typing never waits."""
        if not self._waiting or self._table is None:
            self._timer.stop()
            return
        item = self._waiting.pop(0)
        declared = all_treatments()[item.data(Qt.ItemDataRole.UserRole)]
        try:
            step = Step(declared.key, suggested(declared, self._table))
            after = run_step(self._table, step).table
        except InputError as error:
            item.setToolTip(tip(f"{error}\n\n{item.toolTip()}"))
            item.setForeground(QColor(colours.MUTED))
            return
        colouring = colouring_of(self.desk.study.state)
        picture = Miniature()
        picture.resize(PICTURE)
        picture.show_lines(class_means(after.axis.places(), after.values, self._codes, colouring))
        item.setIcon(QIcon(picture.grab()))

    def _add_chosen(self) -> None:
        item = self.list.currentItem()
        if item is not None and not item.isHidden():
            self._add(item)

    def _add(self, item: QListWidgetItem) -> None:
        declared = all_treatments()[item.data(Qt.ItemDataRole.UserRole)]
        found = self.desk.moment.found
        stage = -1 if self.place is None else self.place
        table = None if found is None else found.stages[stage]
        parameters = None if table is None else suggested(declared, table)
        place = len(self.desk.study.state.recipe.treat) if self.place is None else self.place
        if self.desk.do(AddStep(declared.key, parameters, place)):
            self.desk.selection.change(stage=place + 1)
            self.dismiss()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Up and down move through the list while the search field has the keys."""
        step = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1}.get(Qt.Key(event.key()))
        if step is None:
            super().keyPressEvent(event)
            return
        row = self.list.currentRow() + step
        while 0 <= row < self.list.count() and self.list.item(row).isHidden():
            row += step
        if 0 <= row < self.list.count():
            self.list.setCurrentRow(row)


def suggested(declared: Treatment, table: Table) -> Parameters:
    """Settings of a treatment that suit a table, where it can say; else its defaults."""
    try:
        return declared.suggest(table) if declared.suggest else declared.parameters()
    except (InputError, ValueError, IndexError):
        return declared.parameters()
