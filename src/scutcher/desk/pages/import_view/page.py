"""The import view: the file as found, what each column is, the spectra it becomes, what was found in it."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace
from functools import partial
from pathlib import Path

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtGui import QFont
from PySide6.QtWidgets import (
    QAbstractItemView,
    QCheckBox,
    QHBoxLayout,
    QLabel,
    QLineEdit,
    QPlainTextEdit,
    QPushButton,
    QTableWidget,
    QTableWidgetItem,
    QVBoxLayout,
    QWidget,
)

from scutcher.charts.emphasis import PLAIN
from scutcher.charts.signals import signals
from scutcher.core.data.findings import Finding, findings
from scutcher.core.data.table import Table
from scutcher.core.errors import MENDS, InputError
from scutcher.core.recipes.recipe import Recipe
from scutcher.core.words import count_of
from scutcher.desk.context import Desk
from scutcher.desk.pages.import_view.reading import Answer, read_source
from scutcher.desk.pages.overlay import Over
from scutcher.desk.painting.strip import StripView
from scutcher.desk.widgets.axis_units import AXES
from scutcher.desk.widgets.combo import Combo
from scutcher.desk.widgets.panel import ChartPanel, paper
from scutcher.files.formats import Found, look_at
from scutcher.files.roles import ROLES, column_views
from scutcher.files.workbook import is_range, split_range
from scutcher.study.document.commands.data import ReadAgain, first_colouring
from scutcher.study.document.commands.samples import LeaveOutVariables
from scutcher.study.document.state import Source, State
from scutcher.study.work import Priority

Act = tuple[str, Callable[[], object]]
AXIS = ""
"""Stands among the roles for what the axis is."""


class BringInPage(Over):
    """Roles can be changed at any time: the file is read again, and the picture follows."""

    leaves_on_escape = False

    def __init__(
        self,
        desk: Desk,
        source: Source,
        bring_in: Callable[[Table, Recipe, Source], object],
        parent: QWidget | None = None,
    ) -> None:
        super().__init__(parent)
        self._bring_in = bring_in
        self.desk = desk
        self.source = source
        self.paths = [Path(path) for path in source.paths]
        self.pairs: dict[str, str] = dict(source.roles)
        self.found: Found = look_at(self.paths[0], source.sheet or None)
        self.table: Table | None = None
        self.refused: InputError | None = None
        self.busy = False
        self._slot = f"import view {id(self)}"  # of the queue; the view that this one replaces has another
        self.boxes: dict[str, Combo] = {}
        self._make_columns()
        self._make_picture()
        self._arrange()
        self.read()

    # Building

    def _make_columns(self) -> None:
        self.columns = QTableWidget(0, 3)
        self.columns.setHorizontalHeaderLabels(["column", "its cells", "role"])
        self.columns.verticalHeader().hide()
        self.columns.verticalHeader().setDefaultSectionSize(28)
        self.columns.setEditTriggers(QAbstractItemView.EditTrigger.NoEditTriggers)
        self.columns.setSelectionMode(QAbstractItemView.SelectionMode.NoSelection)
        self.columns.setShowGrid(False)
        self.columns.setWordWrap(False)
        for column, width in enumerate((120, 190, 110)):
            self.columns.setColumnWidth(column, width)
        self.columns.horizontalHeader().setStretchLastSection(True)
        self.columns.horizontalHeader().setDefaultAlignment(Qt.AlignmentFlag.AlignLeft)
        self.text = QPlainTextEdit()
        self.text.setReadOnly(True)
        self.text.setLineWrapMode(QPlainTextEdit.LineWrapMode.NoWrap)
        self.text.setFont(QFont("monospace"))
        self.text.setPlainText(self.found.lines)

    def _make_picture(self) -> None:
        self.view = StripView()
        self.picture = ChartPanel(self.view, "What the file becomes: one line per sample")
        self.told = QVBoxLayout()
        self.told.setContentsMargins(8, 2, 8, 8)
        self.told.setSpacing(4)

    def _arrange(self) -> None:
        name = QLabel(", ".join(path.name for path in self.paths[:3]) + (" …" if len(self.paths) > 3 else ""))
        name.setObjectName("strong")
        layout = QLabel(self.found.layout)
        layout.setObjectName("quiet")
        self.words = QLabel()
        self.words.setWordWrap(True)
        self.use, cancel = QPushButton("Use these roles"), QPushButton("Leave as it is")
        self.use.setObjectName("primary")
        self.use.clicked.connect(self.bring_in)
        cancel.clicked.connect(self.done)
        header, footer = QHBoxLayout(), QHBoxLayout()
        header.addWidget(QLabel("Columns of"))
        header.addWidget(name)
        header.addWidget(layout)
        header.addStretch(1)
        self.sheet = Combo()
        self.sheet.addItems(list(self.found.sheets))
        self.sheet.setToolTip("Which sheet of the workbook, or which matrix of the file")
        self.sheet.setVisible(len(self.found.sheets) > 1)
        sheet, cells = split_range(self.source.sheet)
        if sheet:
            self.sheet.setCurrentText(sheet)
        self.sheet.textActivated.connect(self._set_sheet)
        header.addWidget(self.sheet)
        self.range = QLineEdit(cells)
        self.range.setPlaceholderText("all cells")
        self.range.setFixedWidth(96)
        self.range.setToolTip("The cells that hold the table, its header first, as in B3:K40; empty for all")
        self.range.setVisible(self.paths[0].suffix.lower() in (".xlsx", ".ods"))
        self.range.editingFinished.connect(self._set_range)
        header.addWidget(self.range)
        self.turn = QCheckBox("Samples stand in columns")
        self.turn.setToolTip("The first column holds the headers, the first row the ids")
        self.turn.setChecked(self.source.transposed)
        self.turn.setVisible(bool(self.found.header))
        self.turn.toggled.connect(self._set_transposed)
        header.addWidget(self.turn)
        footer.addWidget(self.words, 1)
        footer.addWidget(cancel)
        footer.addWidget(self.use)
        left, right, middle = QVBoxLayout(), QVBoxLayout(), QHBoxLayout()
        left.setSpacing(7)
        right.setSpacing(7)
        left.addWidget(paper("What each column is", self.columns), 60)
        left.addWidget(paper("The file as found", self.text), 40)
        told = QWidget()
        told.setLayout(self.told)
        right.addWidget(self.picture, 55)
        right.addWidget(paper("Found in it", told), 45)
        middle.setSpacing(7)
        middle.addLayout(left, 45)
        middle.addLayout(right, 55)
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 10, 12, 10)
        column.setSpacing(8)
        column.addLayout(header)
        column.addLayout(middle, 1)
        column.addLayout(footer)

    # Reading

    def read(self) -> None:
        """Read the file behind with the roles of now; the last good picture stays until it is read."""
        self.busy = True
        self.use.setEnabled(False)
        self.words.setText("Reading …")
        axis = self.pairs.get(AXIS, "")
        ask = partial(read_source, tuple(self.paths), dict(self.pairs), self.source, axis)
        self.desk.live.ask(self._slot, None, ask, self._take, None, Priority.FILES)

    def close_down(self) -> None:
        """Nobody waits for the file any more."""
        self.desk.live.queue.drop(self._slot)

    def _take(self, answer: Answer | Exception) -> None:
        """What the file gave, or why it cannot be read and what it would become if it were mended."""
        self.busy = False
        if isinstance(answer, Exception):
            raise answer
        table, self.refused = answer
        if self.refused is not None:
            self._refuse(self.refused, table)
            return
        assert table is not None
        self.table = table
        self.use.setEnabled(True)
        n, p = table.shape
        kind = "channels" if table.axis.ordered else "variables"
        self.words.setText(f"{n} samples × {p} {kind}, {count_of(table.classes, 'class column')}")
        self._show_columns(table)
        self._show_picture(table)
        self._show_findings(table)

    def _refuse(self, error: InputError, mended: Table | None) -> None:
        """Say what is wrong; where it can be mended, show what the file would become, and ask."""
        self.words.setText(f"<b>{error.problem}</b> {error.remedy}")
        if not error.mends:
            return
        self._show_mends()
        asks = [(MENDS[mend].ask, partial(self._mend, mend)) for mend in error.mends]
        self.told.addWidget(_line(error.problem, asks))
        self.told.addStretch(1)
        if mended is not None:
            self._show_columns(mended)
            self._show_picture(mended)

    def _mend(self, mend: str) -> None:
        """Go on reading all the same, or no longer."""
        old = self.source.mends
        mends = tuple(m for m in old if m != mend) if mend in old else (*old, mend)
        self.source = replace(self.source, mends=mends)
        self.read()

    def set_role(self, name: str, role: str) -> None:
        """Give a column a role; one that only one column can have is taken from the other."""
        if role in ("id", "replicate", "run order"):
            self.pairs = {other: known for other, known in self.pairs.items() if known != role}
        self.pairs[name] = role
        self.read()

    def _set_range(self) -> None:
        """Other cells of the sheet; a text that is no range is said, and what was read stays."""
        cells = self.range.text().strip().upper()
        if cells and not is_range(cells):
            self.words.setText(f"<b>{cells} is no range of cells.</b> Write it as B3:K40, or leave it empty.")
            return
        if cells == split_range(self.source.sheet)[1]:
            return
        sheet = self.sheet.currentText()
        self._set_sheet(f"{sheet}!{cells}" if cells else sheet)

    def _set_sheet(self, name: str) -> None:
        """Another sheet, or range of it: its columns have roles of their own."""
        if not split_range(name)[1] and name != self.sheet.currentText():
            self.range.clear()
        self.source = replace(self.source, sheet=name)
        self.found = look_at(self.paths[0], name)
        self.text.setPlainText(self.found.lines)
        self.pairs = {}
        self.read()

    def _set_transposed(self, on: bool) -> None:
        """Rows become columns; roles that were given to the old columns go."""
        self.source = replace(self.source, transposed=on)
        self.pairs = {name: role for name, role in self.pairs.items() if name == AXIS}
        self.read()

    def bring_in(self) -> None:
        """Make it the study's data: one command, undone like any other."""
        if self.table is None or self.busy or self.refused is not None:
            return
        source = replace(self.source, roles=tuple(self.pairs.items()))
        state = self.desk.study.state
        again = state.table is not None and state.source.paths == source.paths
        if not again:
            self.done.emit()
            self._bring_in(self.table, Recipe(), source)
        elif self.desk.do(ReadAgain(self.table, source)):
            self.done.emit()

    def _show_columns(self, table: Table) -> None:
        header = self.found.header
        if self.source.transposed:
            header = ("sample", *table.axis.labels, *(c.name for c in table.classes))
        views = column_views(table, header, tuple(self.pairs.items()))
        self.columns.setRowCount(len(views))
        self.boxes = {}
        for row, view in enumerate(views):
            self.columns.setItem(row, 0, QTableWidgetItem(view.name))
            self.columns.setItem(row, 1, QTableWidgetItem(view.cells))
            if view.name not in header:
                box = Combo()
                box.addItems([f"{quantity} / {unit}" if unit else quantity for quantity, unit in AXES])
                box.setCurrentText(table.axis.title)
                box.setToolTip("What the axis is, and its unit")
                box.textActivated.connect(partial(self.set_role, AXIS))
                self.boxes[AXIS] = box
                self.columns.setCellWidget(row, 2, box)
                continue
            box = Combo()
            box.addItems(list(ROLES))
            box.setCurrentText(view.role)
            box.textActivated.connect(partial(self.set_role, view.name))
            self.boxes[view.name] = box
            self.columns.setCellWidget(row, 2, box)

    def _show_picture(self, table: Table) -> None:
        chart = signals(State.of(table.name, table, Recipe(), first_colouring(table)), None, 0, means=False)
        self.picture.describe(chart)
        count = 0 if chart.lines is None else len(chart.lines.keys)
        self.view.show_chart(chart, np.full(count, PLAIN))
        self.view.settle()

    def _show_findings(self, table: Table) -> None:
        self._show_mends()
        for finding in findings(table) or (Finding("Nothing to remark."),):
            self.told.addWidget(_line(finding.text, self._acts(finding)))
        self.told.addStretch(1)

    def _show_mends(self) -> None:
        """What was mended, in place of what was told before."""
        while (item := self.told.takeAt(0)) is not None:
            if (old := item.widget()) is not None:
                old.hide()
                old.deleteLater()
        for mend in self.source.mends:
            self.told.addWidget(_line(f"{MENDS[mend].done}.", [("Take it back", partial(self._mend, mend))]))

    def _acts(self, finding: Finding) -> list[Act]:
        if finding.act == "replicate":
            return [("They are replicates", partial(self.set_role, finding.reason, "replicate"))]
        if finding.act == "leave-out":
            return [("Leave out", partial(self._leave_out, finding))]
        return []

    def _leave_out(self, finding: Finding) -> None:
        """Leave variables out of what is being brought in."""
        assert self.table is not None
        state = LeaveOutVariables(finding.columns, finding.reason).apply(State.of("", self.table))
        self.table = state.table
        assert self.table is not None
        self._show_findings(self.table)


def _line(text: str, acts: Sequence[Act]) -> QWidget:
    """A finding with the buttons that act on it."""
    line = QWidget()
    row = QHBoxLayout(line)
    row.setContentsMargins(0, 0, 0, 0)
    label = QLabel(f"· {text}")
    label.setWordWrap(True)
    row.addWidget(label, 1)
    for words, act in acts:
        button = QPushButton(words)
        button.clicked.connect(lambda _=False, act=act: act())
        row.addWidget(button)
    return line
