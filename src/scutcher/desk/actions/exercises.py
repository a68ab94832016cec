"""Practice: three exercises to begin, and to have looked at once they are done."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PySide6.QtWidgets import QHBoxLayout, QPushButton, QWidget

from scutcher.core.data.table import Table
from scutcher.core.recipes.recipe import Recipe
from scutcher.desk.actions.exercise_list import EXERCISES, Exercise, Verdict, is_begun
from scutcher.desk.context import Desk
from scutcher.desk.widgets.popover import Popover
from scutcher.desk.words import Words

WIDE = 520


class Practice(Popover):
    """Each exercise with its task; the one that is begun can be looked at."""

    def __init__(self, window: QWidget, desk: Desk, bring_in: Callable[[Table, Recipe], object]) -> None:
        super().__init__(window, "Practice with known answers")
        self.desk, self._bring_in = desk, bring_in
        self.verdict: Verdict | None = None
        self.said = Words()
        self.said.setWordWrap(True)
        self.begin: dict[str, QPushButton] = {}
        self.check: dict[str, QPushButton] = {}
        for exercise in EXERCISES:
            self._add(exercise)
        self.column.addWidget(self.said)
        close = QPushButton("Close")
        close.clicked.connect(self.dismiss)
        row = QHBoxLayout()
        row.addStretch(1)
        row.addWidget(close)
        self.column.addLayout(row)
        self.setFixedWidth(WIDE)

    def _add(self, exercise: Exercise) -> None:
        title, task = Words(exercise.title), Words(exercise.task)
        title.setObjectName("title")
        task.setWordWrap(True)
        task.setObjectName("quiet")
        begin, check = QPushButton("Begin"), QPushButton("Is it right?")
        begun = is_begun(self.desk.study.state, exercise.key)
        begin.clicked.connect(partial(self._begin, exercise))
        check.clicked.connect(partial(self._check, exercise))
        check.setEnabled(begun)
        check.setToolTip("Look at what was done" if begun else "Begin it first")
        if begun:
            check.setObjectName("primary")
        row = QHBoxLayout()
        row.addWidget(title, 1)
        row.addWidget(begin)
        row.addWidget(check)
        self.column.addLayout(row)
        self.column.addWidget(task)
        self.begin[exercise.key], self.check[exercise.key] = begin, check

    def _begin(self, exercise: Exercise) -> None:
        """Its data come into a study of their own; what was open is not changed."""
        self.dismiss()
        self.desk.selection.forget()
        self._bring_in(*exercise.begin())

    def _check(self, exercise: Exercise) -> None:
        look = self.desk.selection.look
        self.verdict = exercise.check(self.desk.study.state, look.picked)
        self.said.setText(self.verdict.words)
        self.said.setObjectName("strong" if self.verdict.solved else "")
        self.said.style().polish(self.said)
        self.adjustSize()
