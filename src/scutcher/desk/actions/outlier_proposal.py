"""Outliers that the robust fit proposes, each with its reasons; a person decides."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QProgressBar, QPushButton, QWidget

from scutcher.core.arrays import Integers
from scutcher.core.distances.outliers import RobustFit, robust_fit
from scutcher.core.errors import InputError
from scutcher.core.progress import Watch
from scutcher.core.validation.segments import group_codes
from scutcher.core.words import count_of, counted, shown
from scutcher.desk.context import Desk
from scutcher.desk.widgets.figures_table import FiguresTable
from scutcher.desk.widgets.popover import Popover
from scutcher.desk.words import Words
from scutcher.study.evaluation.evaluation import Evaluation

SLOT = "outliers"
"""Of the queue."""

FEW, NEARLY = 4, 0.75
"""Samples of a class that is worth a word, and how much of it must be proposed."""


def propose(window: QWidget, desk: Desk, found: Evaluation, anchor: QWidget) -> Proposal:
    """Fit behind, and list what the fit proposes once it is there."""
    paper = Proposal(window, desk, found)
    paper.open_at(anchor, above=True)

    def work(watch: Watch) -> RobustFit:
        return robust_fit(found.z, found.model.k, found.recipe.validate.seed, watch, group_codes(found.part))

    key = (found.key, found.model.k, found.recipe.validate.seed)
    desk.live.ask(SLOT, key, work, paper.show_fit, paper.show_share)
    return paper


class Proposal(Popover):
    """The list; its button picks the samples, nothing more."""

    def __init__(self, window: QWidget, desk: Desk, found: Evaluation) -> None:
        super().__init__(window, "Proposed outliers (robust fit)")
        self.desk, self.found = desk, found
        self.rows: list[int] = []
        self.words = Words("Fitting the most alike three quarters of the samples …")
        self.words.setObjectName("quiet")
        self.words.setWordWrap(True)
        self.words.setMinimumWidth(520)
        self.bar = QProgressBar()
        self.bar.setRange(0, 100)
        self.bar.setTextVisible(False)
        self.table = FiguresTable(["sample", "within / limit", "from / limit", "reason"], figures=(1, 2))
        self.table.setFixedSize(520, 240)
        self.table.hide()
        self.pick, close = QPushButton("Pick them"), QPushButton("Close")
        self.pick.setObjectName("primary")
        self.pick.setEnabled(False)
        self.pick.clicked.connect(self._pick)
        close.clicked.connect(self.dismiss)
        row = QHBoxLayout()
        row.addStretch(1)
        row.addWidget(close)
        row.addWidget(self.pick)
        for widget in (self.words, self.bar, self.table):
            self.column.addWidget(widget)
        self.column.addLayout(row)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)

    def show_share(self, share: float) -> None:
        """How far the fit is."""
        self.bar.setValue(round(100 * share))

    def show_fit(self, answer: RobustFit | Exception) -> None:
        """The proposals, the farthest first; or why there are none."""
        self.bar.hide()
        if isinstance(answer, InputError):
            self.words.setText(str(answer))
            return
        if isinstance(answer, Exception):
            self.dismiss()
            raise answer
        within = answer.score_distances / answer.score_limit
        away = answer.orthogonal_distances / answer.orthogonal_limit
        past = np.flatnonzero(answer.outlying())
        past = past[np.argsort(-np.maximum(within, away)[past])]
        self.rows = [int(self.found.usable.rows[place]) for place in past]
        self.words.setText(
            f"{counted(past)} of {count_of(self.found.scaled.shape[0])} lie past a 97.5 % limit of a fit "
            "that the most alike samples decide. In simulations 4 to 8 % of clean samples did by chance: "
            "look before you set any aside." + self._of_classes(past)
        )
        self.table.show_rows(
            (
                self.found.treated.ids[int(at)],
                shown(within[at], ".2f"),
                shown(away[at], ".2f"),
                _reasons(within[at], away[at]),
            )
            for at in past
        )
        bottom = self.geometry().bottom()
        self.table.setFixedHeight(min(60 + 23 * max(len(past), 1), 320))
        self.table.show()
        self.pick.setEnabled(bool(self.rows))
        self.adjustSize()
        self.move(self.x(), max(bottom - self.height(), 8))

    def _of_classes(self, past: Integers) -> str:
        """The classes that are proposed nearly whole: they are kinds of their own rather than outliers."""
        for column in self.found.treated.classes:
            codes = column.codes()
            for code, name in enumerate(column.levels):
                of_class = np.flatnonzero(codes == code)
                if name and FEW <= len(of_class) < len(codes) and np.isin(of_class, past).mean() > NEARLY:
                    return f" Nearly all of {column.name} {name} are among them: a kind of its own, perhaps."
        return ""

    def dismiss(self) -> None:
        """Put it away; nobody waits for a fit any more."""
        self.desk.live.queue.drop(SLOT)
        super().dismiss()

    def _pick(self) -> None:
        self.desk.selection.pick(self.rows)
        self.dismiss()


def _reasons(within: float, away: float) -> str:
    words = (["far within the model plane"] if within > 1 else []) + (["far from it"] if away > 1 else [])
    return " and ".join(words)
