"""What each column of a file is: a name, some of its cells, a role to choose."""

from __future__ import annotations

from collections.abc import Mapping
from functools import partial

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QAbstractItemView, QHeaderView, QTableWidget, QTableWidgetItem, QWidget

from scutcher.core.data.table import Table
from scutcher.desk.widgets.axis_units import AXES
from scutcher.desk.widgets.combo import Combo
from scutcher.files.roles import ROLES, column_views

AXIS = ""
"""Stands among the roles for what the axis is."""


class ColumnRoles(QTableWidget):
    """Emits `given` with a column and its new role."""

    given = Signal(str, str)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(0, 3, parent)
        self.boxes: dict[str, Combo] = {}
        self.setHorizontalHeaderLabels(["column", "its cells", "role"])
        self.verticalHeader().hide()
        self.verticalHeader().setDefaultSectionSize(28)
        self.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.setSelectionMode(QAbstractItemView.SelectionMode.NoSelection)
        self.setShowGrid(False)
        self.setWordWrap(False)
        self.setColumnWidth(0, 120)
        self.setColumnWidth(2, 124)
        self.horizontalHeader().setMinimumSectionSize(60)
        self.horizontalHeader().setSectionResizeMode(1, QHeaderView.ResizeMode.Stretch)
        self.horizontalHeader().setDefaultAlignment(Qt.AlignmentFlag.AlignLeft)

    def show_table(self, table: Table, given: Mapping[str, str]) -> None:
        """The columns of a table that was read with the roles given."""
        views = column_views(table, table.origin.columns, tuple(given.items()))
        self.setRowCount(len(views))
        self.boxes = {}
        for row, view in enumerate(views):
            self.setItem(row, 0, QTableWidgetItem(view.name))
            self.setItem(row, 1, QTableWidgetItem(view.cells))
            is_axis = view.name not in table.origin.columns
            box = self._axis_box(table) if is_axis else self._role_box(view.name, view.role)
            self.boxes[AXIS if is_axis else view.name] = box
            self.setCellWidget(row, 2, box)

    def _axis_box(self, table: Table) -> Combo:
        box = Combo()
        names = [f"{quantity} / {unit}" if unit else quantity for quantity, unit in AXES]
        box.addItems(names if table.axis.title in names else [table.axis.title, *names])
        box.setCurrentText(table.axis.title)
        box.setToolTip("What the axis is, and its unit")
        box.textActivated.connect(partial(self.given.emit, AXIS))
        return box

    def _role_box(self, name: str, role: str) -> Combo:
        box = Combo()
        box.addItems(list(ROLES))
        box.setCurrentText(role)
        box.textActivated.connect(partial(self.given.emit, name))
        return box
