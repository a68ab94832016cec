"""The panel of the class table: the column, what the table shows, and labels worth a look."""

from __future__ import annotations

from dataclasses import replace
from functools import partial

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QScrollArea, QVBoxLayout, QWidget

from scutcher.charts.class_table import UPPER, SquareLook, class_square
from scutcher.charts.held_out_groups import doubtful_words
from scutcher.core.groups.tree import Linkage
from scutcher.desk.context import Desk
from scutcher.desk.pages.groups.class_table import ClassTable
from scutcher.desk.widgets.choice_menu import ChoiceMenu
from scutcher.desk.widgets.legend import ColumnChooser
from scutcher.desk.widgets.note import Note
from scutcher.desk.widgets.panel import paper
from scutcher.desk.words import Words
from scutcher.study.document.commands.classes import ColourBy
from scutcher.study.evaluation.grouping import Grouping, HeldOutGroups

LINKAGES: dict[Linkage, str] = {"average": "average", "ward": "Ward's", "complete": "complete"}
NAMED = 3  # doubtful labels that are spelled out
MEANING = (
    "Above the diagonal: how far the centres lie apart. Below: left-out samples mixed up, both ways. On it: "
    "left-out samples that find their class. Click a cell to pick those samples and see where the two "
    "differ; drag over the tree to cut it."
)


class ClassPanel(QWidget):
    """`chosen` tells the classes of a cell that was clicked."""

    chosen = Signal(int, int)

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self.look = SquareLook()
        self._shown: tuple[Grouping, HeldOutGroups | None, tuple[int, int]] | None = None
        self.table = ClassTable()
        self.table.chosen.connect(self.chosen)
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setWidget(self.table)
        self.worth = Words()
        self.worth.setObjectName("finding")
        self.worth.setTextFormat(Qt.TextFormat.PlainText)
        self.worth.setContentsMargins(6, 0, 6, 4)
        self.worth.setWordWrap(True)
        inside = QWidget()
        column = QVBoxLayout(inside)
        column.setContentsMargins(8, 0, 4, 0)
        column.setSpacing(2)
        column.addWidget(scroll, 1)
        column.addWidget(self.worth)
        self.note = Note()
        self.chooser = ColumnChooser()
        self.chooser.column_chosen.connect(lambda column: desk.do(ColourBy(column)))
        self.menu = ChoiceMenu("show ▾", "What stands above the diagonal, how classes are joined", self._fill)
        title = Words("Class against class")
        title.setToolTip(MEANING)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.addWidget(paper(title, inside, (self.note,), (self.chooser, self.menu)))

    def show_classes(self, grouping: Grouping, held: HeldOutGroups | None, pair: tuple[int, int]) -> None:
        """The table of a grouping; `pair` is the plane that hulls are compared on."""
        self._shown = (grouping, held, pair)
        names = tuple(column.name for column in grouping.found.table.classes)
        self.chooser.show_columns(grouping.column.name, names)
        self.table.show_square(class_square(grouping, held, self.look, pair))
        together = " · replicates together" if grouping.found.part.replicates is not None else ""
        self.note.setText(f"{grouping.found.model.k} components{together} · above: {UPPER[self.look.upper]}")
        self.worth.setText("\n".join(_worth(grouping, held)))

    def show_nothing(self, words: str) -> None:
        """There are no classes."""
        self._shown = None
        self.chooser.show_columns("", ())
        self.table.show_square(None)
        self.note.setText("")
        self.worth.setText(words)

    def _fill(self, menu: ChoiceMenu) -> None:
        for key, words in UPPER.items():
            menu.add(f"above: {words}", self.look.upper == key, partial(self._take, upper=key))
        menu.line()
        menu.add("mix-ups as shares", self.look.shares, lambda: self._take(shares=not self.look.shares))
        menu.line()
        for linkage, words in LINKAGES.items():
            on = self.look.linkage == linkage
            menu.add(f"{words} linkage", on, partial(self._take, linkage=linkage))

    def _take(self, **fields: object) -> None:
        self.look = replace(self.look, **fields)  # type: ignore[arg-type]
        if self._shown is not None:
            self.show_classes(*self._shown)


def _worth(grouping: Grouping, held: HeldOutGroups | None) -> list[str]:
    """Labels worth a look, and classes that could not be judged."""
    if held is None:
        return []
    lines = []
    doubtful = doubtful_words(grouping, held, NAMED)
    if doubtful:
        rest = len(held.assignment.doubtful) - NAMED
        more = f" … and {rest} more (Shift+D picks all)" if rest > 0 else ""
        lines.append("Worth a look: " + "; ".join(doubtful) + more + ".")
    alone = [grouping.name(code) for code in held.assignment.alone]
    lines += [f"{name} has one sample or group of replicates: not judged." for name in alone]
    return lines
