"""Why the picked samples are far: the channels with the largest shares, as a list to click."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QWidget

from scutcher.charts.words import significant
from scutcher.core.distances.contributions import means_of_groups, normal_band, q_shares, t2_shares
from scutcher.desk.context import Desk
from scutcher.desk.widgets.combo import Combo
from scutcher.desk.widgets.figures_table import FiguresTable
from scutcher.desk.widgets.popover import Popover
from scutcher.study.evaluation.evaluation import Evaluation

SHOWN, MOST_LEVELS = 12, 12
ALL = "all other samples"
KINDS = {"share of Q": q_shares, "share of T²": t2_shares}


class Why(Popover):
    """Shares of the mean of the pick against all other samples, the pick before it, or any class.

    Opens on the distance that is farthest past its limit.
    """

    def __init__(self, window: QWidget, desk: Desk, found: Evaluation, rows: list[int]) -> None:
        names = ", ".join(found.treated.ids[row] for row in rows[:4])
        super().__init__(window, f"Why: {names}{' …' if len(rows) > 4 else ''}")
        self.desk, self.found, self.rows = desk, found, rows
        self.kind, self.against = Combo(), Combo()
        self.kind.addItems(list(KINDS))
        self.kind.setCurrentIndex(int(self._past("t2") > self._past("q")))
        self.references = self._groups()
        self.against.addItems(list(self.references))
        for box in (self.kind, self.against):
            box.activated.connect(lambda place: self.refresh())
        choices = QHBoxLayout()
        for word, box in (("of", self.kind), ("against", self.against)):
            choices.addWidget(QLabel(word))
            choices.addWidget(box, 1)
        self.table = FiguresTable(["channel", "share", "normal from", "to"], figures=(1, 2, 3))
        self.table.setFixedSize(430, 300)
        self.table.itemSelectionChanged.connect(self._point)
        self.note = QLabel()
        self.note.setObjectName("quiet")
        self.note.setWordWrap(True)
        close = QPushButton("Close")
        close.clicked.connect(self.dismiss)
        self.column.addLayout(choices)
        self.column.addWidget(self.table)
        self.column.addWidget(self.note)
        self.column.addWidget(close, 0, Qt.AlignmentFlag.AlignRight)
        self.refresh()

    def refresh(self) -> None:
        """Compute the shares anew."""
        found, shares_of = self.found, KINDS[self.kind.currentText()]
        reference = np.array(self.references[self.against.currentText()], dtype=np.intp)
        pick = found.scaled.rows(np.array(self.rows)).mean(axis=0)
        normal = found.scaled.rows(reference)
        base = normal.mean(axis=0)
        shares = shares_of((pick - base)[np.newaxis, :], found.model)[0]
        alike = means_of_groups(normal, min(len(self.rows), len(normal)))
        band = normal_band(shares_of(alike - base, found.model))
        order = found.treated.axis.apart(np.argsort(-np.abs(shares)), 60, SHOWN)
        axis, sides = found.treated.axis, (shares, band.low, band.high)
        self.table.show_rows(
            (axis.name(column), *(significant(side[column], 3) for side in sides)) for column in order
        )
        for place, column in enumerate(order):
            for at in range(self.table.columnCount()):
                self.table.cell(place, at).setData(Qt.ItemDataRole.UserRole, float(axis.places()[column]))
        beyond = int(((shares > band.high) | (shares < band.low)).sum())
        self.note.setText(
            f"{beyond} of {len(shares)} channels lie outside the 2.5–97.5 % range of {self._of_what()}. "
            "A row moves the channel cursor; choose “channel” in the run-order strip to see its raw values."
        )

    def _of_what(self) -> str:
        count = len(self.rows)
        return "the reference" if count == 1 else f"groups of {count} from the reference"

    def _past(self, which: str) -> float:
        """How far the pick is past a limit, as a multiple; nothing where there is no limit."""
        model = self.found.model
        distances, limit = (model.t2, model.t2_limit) if which == "t2" else (model.q, model.q_limit)
        return float(distances[self.rows].mean()) / limit.value if limit.value else 0.0

    def _groups(self) -> dict[str, list[int]]:
        """What the pick can be held against: rows of the model by words, those of the pick left out."""
        treated, look = self.found.treated, self.desk.selection.look
        groups = {ALL: list(range(self.found.scaled.shape[0]))}
        places = self.found.places()
        former = [places[row] for row in look.before if row in places]
        if former:
            names = ", ".join(treated.ids[row] for row in former[:2])
            groups[f"the pick before ({names}{' …' if len(former) > 2 else ''})"] = former
        coloured_first = sorted(treated.classes, key=lambda c: c.name != self.desk.study.state.colour_by)
        for column in (c for c in coloured_first if len(c.names) <= MOST_LEVELS):
            for level in column.names:
                groups[f"{column.name}: {level}"] = [
                    row for row, value in enumerate(column.values) if value == level
                ]
        apart = {words: [row for row in rows if row not in self.rows] for words, rows in groups.items()}
        return {words: rows for words, rows in apart.items() if rows} or groups

    def _point(self) -> None:
        chosen = self.table.selectedItems()
        if chosen:
            self.desk.selection.change(channel=chosen[0].data(Qt.ItemDataRole.UserRole))
