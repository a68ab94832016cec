"""The import view: the file as found, what each column is, the spectra it becomes, what was found in it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from functools import partial
from pathlib import Path

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from scutcher.charts.emphasis import PLAIN
from scutcher.charts.signals import signals
from scutcher.core.data.findings import Finding
from scutcher.core.data.table import Table
from scutcher.core.errors import MENDS, AxesDiffer, InputError, Unclear
from scutcher.core.recipes.recipe import Recipe
from scutcher.core.words import count_of, counted, first_of
from scutcher.desk.context import Desk
from scutcher.desk.pages.import_view.as_found import AsFound
from scutcher.desk.pages.import_view.column_roles import AXIS, ColumnRoles
from scutcher.desk.pages.import_view.controls import ReadingControls
from scutcher.desk.pages.import_view.reading import Answer, Said, look_over, read_source
from scutcher.desk.pages.import_view.told_list import Act, ToldList
from scutcher.desk.pages.overlay import Over
from scutcher.desk.painting.strip import StripView
from scutcher.desk.widgets.panel import ChartPanel, paper
from scutcher.desk.words import Words, escaped
from scutcher.files.layout.reading import reading_of_pairs
from scutcher.study.document.commands.data import ReadAgain, first_colouring
from scutcher.study.document.parts import Source
from scutcher.study.document.state import State
from scutcher.study.work import Priority


class BringInPage(Over):
    """Roles and reading can be changed at any time: the file is read again, and the picture follows."""

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
        self.table: Table | None = None
        self.refused: InputError | None = None
        self.busy = False
        self._slot = f"import view {id(self)}"  # of the queue; the view that this one replaces has another
        said = reading_of_pairs(source.reading)
        if source.sheet and not said.sheets:
            said = replace(said, sheets=(source.sheet,))
        self.said = Said()
        self._findings: tuple[Finding, ...] = ()
        self.controls = ReadingControls(self.paths[0], said)
        self.controls.changed.connect(self._on_said)
        self.controls.refused.connect(lambda words: self.words.show_rich(f"<b>{escaped(words)}</b>"))
        self.columns, self.as_found = ColumnRoles(), AsFound()
        self.columns.given.connect(self.set_role)
        self.as_found.said.connect(self.controls.say)
        self._make_picture()
        self._arrange()
        self.read()

    # Building

    def _make_picture(self) -> None:
        self.view = StripView()
        self.picture = ChartPanel(self.view, "What the file becomes: one line per sample")
        self.told = ToldList()

    def _arrange(self) -> None:
        name = Words(first_of([path.name for path in self.paths]))
        name.setTextFormat(Qt.TextFormat.PlainText)
        name.setObjectName("strong")
        self.layout_words = Words()
        self.layout_words.setObjectName("quiet")
        self.words = Words()
        self.words.setWordWrap(True)
        self.use, cancel = QPushButton("Use this reading"), QPushButton("Leave as it is")
        self.use.setObjectName("primary")
        self.use.clicked.connect(self.bring_in)
        cancel.clicked.connect(self.done)
        header, footer = QHBoxLayout(), QHBoxLayout()
        header.addWidget(Words("How to read"))
        header.addWidget(name)
        header.addWidget(self.layout_words)
        header.addStretch(1)
        footer.addWidget(self.words, 1)
        footer.addWidget(cancel)
        footer.addWidget(self.use)
        left, right, middle = QVBoxLayout(), QVBoxLayout(), QHBoxLayout()
        left.setSpacing(7)
        right.setSpacing(7)
        left.addWidget(paper("The file as found", self.as_found), 45)
        left.addWidget(paper("What each column is", self.columns), 55)
        right.addWidget(self.picture, 55)
        right.addWidget(paper("Found in it", self.told), 45)
        middle.setSpacing(7)
        middle.addLayout(left, 45)
        middle.addLayout(right, 55)
        column = QVBoxLayout(self)
        column.setContentsMargins(12, 10, 12, 10)
        column.setSpacing(8)
        column.addLayout(header)
        column.addWidget(self.controls)
        column.addLayout(middle, 1)
        column.addLayout(footer)

    # Reading

    def read(self) -> None:
        """Read the file behind with what is said now; the last good picture stays until it is read."""
        self.busy = True
        self.use.setEnabled(False)
        self.words.setText("Reading …")
        axis = self.pairs.get(AXIS, "")
        ask = partial(read_source, tuple(self.paths), dict(self.pairs), self.source, axis, self.said)
        self.desk.live.ask(self._slot, None, ask, self._take, None, Priority.FILES)

    def close_down(self) -> None:
        """Nobody waits for the file any more."""
        self.desk.live.queue.drop(self._slot)

    def _take(self, answer: Answer | Exception) -> None:
        """What the file gave, or why it cannot be read and what it would become if it were mended."""
        self.busy = False
        if isinstance(answer, Exception):
            raise answer
        table, self.refused = answer.table, answer.refused
        reading = None if table is None else reading_of_pairs(table.origin.reading)
        self.controls.show_found(answer.found, reading)
        self.as_found.show_found(answer.found, reading)
        self.picture.setVisible(table is not None or self.table is not None)
        self.layout_words.setText("" if table is None else table.origin.words)
        if self.refused is not None:
            self._refuse(self.refused, table)
            return
        assert table is not None
        self.use.setEnabled(True)
        n, p = table.shape
        kind = "channels" if table.axis.ordered else "variables"
        self.words.setText(f"{count_of(n)} × {counted(p)} {kind}, {count_of(table.classes, 'class column')}")
        self.columns.show_table(table, self.pairs)
        self._show_table((table, answer.findings))

    def _show_table(self, looked: tuple[Table, tuple[Finding, ...]] | Exception) -> None:
        """The picture of a table, and what is told of it."""
        self.busy = False
        if isinstance(looked, Exception):
            raise looked
        self.table, self._findings = looked
        self._show_picture(self.table)
        self._show_findings(self.table)

    def _look_again(self, said: Said) -> None:
        """More was said of the values: the table with it, behind."""
        self.said = said
        if self.busy:  # what is being read now is read with it
            self.read()
            return
        assert self.table is not None
        self.busy = True
        ask = partial(look_over, self.table, said)
        self.desk.live.ask(self._slot, None, ask, self._show_table, None, Priority.FILES)

    def _refuse(self, error: InputError, mended: Table | None) -> None:
        """Say what is wrong; where an answer settles it, ask, and show what the file would become."""
        self.words.show_rich(f"<b>{escaped(error.problem)}</b> {escaped(error.remedy)}")
        self._show_mends()
        asks: list[Act] = [(MENDS[mend].ask, partial(self._mend, mend)) for mend in error.mends]
        if isinstance(error, Unclear):
            asks = [(words, partial(self.controls.say, said)) for words, said in error.answers]
        if isinstance(error, AxesDiffer) and not self.source.resampled:
            asks = [("Resample to the common channels", self._resample)]
        if asks:
            self.told.tell(error.problem, asks)
        self.told.end()
        if mended is not None:
            self.columns.show_table(mended, self.pairs)
            self._show_picture(mended)

    def _resample(self) -> None:
        self.source = replace(self.source, resampled=True)
        self.read()

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

    def _on_said(self) -> None:
        """Another reading: roles of columns that it does not have are forgotten."""
        said = self.controls.said
        before = reading_of_pairs(self.source.reading)
        sheet = said.sheets[0] if len(said.sheets) == 1 else ""
        self.source = replace(self.source, reading=said.pairs(), sheet=sheet)
        if replace(said, thousands=None, decimal="", dates="") != replace(
            before, thousands=None, decimal="", dates=""
        ):
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

    def _show_picture(self, table: Table) -> None:
        chart = signals(State.of(table.name, table, Recipe(), first_colouring(table)), None, 0, means=False)
        self.picture.describe(chart)
        count = 0 if chart.lines is None else len(chart.lines.keys)
        self.view.show_chart(chart, np.full(count, PLAIN))
        self.view.settle()

    def _show_findings(self, table: Table) -> None:
        self._show_mends()
        for remark in table.origin.remarks:
            self.told.tell(f"{remark}.")
        for finding in self._findings or (() if table.origin.remarks else (Finding("Nothing to remark."),)):
            self.told.tell(finding.text, self._acts(finding))
        self.told.end()

    def _show_mends(self) -> None:
        """What was mended, in place of what was told before."""
        self.told.clear()
        for mend in self.source.mends:
            self.told.tell(f"{MENDS[mend].done}.", [("Take it back", partial(self._mend, mend))])

    def _acts(self, finding: Finding) -> list[Act]:
        if finding.act == "replicate":
            return [("They are replicates", partial(self.set_role, finding.reason, "replicate"))]
        if finding.act == "gaps":
            return [("Take them for gaps", partial(self._take_for_gaps, float(finding.reason)))]
        if finding.act == "leave-out":
            return [("Leave out", partial(self._leave_out, finding))]
        return []

    def _take_for_gaps(self, mark: float) -> None:
        """A number that stands for missing values, now and in what is read after it."""
        self._look_again(replace(self.said, marks=(*self.said.marks, mark)))

    def _leave_out(self, finding: Finding) -> None:
        """Leave variables out of what is being brought in."""
        assert self.table is not None
        names = ((self.table.axis.name(column), finding.reason) for column in finding.columns)
        self._look_again(replace(self.said, left_out=(*self.said.left_out, *names)))
