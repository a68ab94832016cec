"""Limits of the distances: level, methods, and a calm stretch to take them from."""

from __future__ import annotations

from typing import Any

from msgspec.structs import replace
from PySide6.QtWidgets import QMenu, QToolButton, QWidget

from scutcher.core.words import counted, shown
from scutcher.desk.context import Desk
from scutcher.study.document.commands.recipe import LimitBy
from scutcher.study.document.commands.samples import Watch

FEWEST = 4  # samples that limits can be made from
LEVELS = (0.9, 0.95, 0.99, 0.999)
METHODS = {"jackson-mudholkar": "Q limit: Jackson–Mudholkar", "box": "Q limit: Box"}
JOINTS = {"moments": "joint limit: moments", "robust": "joint limit: robust"}


class LimitMenu(QToolButton):
    """`limits ▾` on the plane of distances."""

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.desk = desk
        self.setText("limits ▾")
        self.setToolTip("Level and methods of the limits; train on one class and watch the others")
        self.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        self.choices = QMenu(self)
        self.choices.aboutToShow.connect(self.fill)
        self.setMenu(self.choices)

    def fill(self) -> None:
        """The choices as they are now."""
        menu, now = self.choices, self.desk.study.state.recipe.limits
        menu.clear()
        for level in LEVELS:
            self._add(f"{shown(100 * level)} %", now.level == level, level=level)
        menu.addSeparator()
        for method, words in METHODS.items():
            self._add(words, now.q == method, q=method)
        for method, words in JOINTS.items():
            self._add(words, now.joint == method, joint=method)
        table, column = self.desk.study.state.table, self.desk.study.state.colour_by
        found = next((c for c in table.classes if c.name == column), None) if table is not None else None
        menu.addSeparator()
        picked = self.desk.selection.look.picked
        if len(picked) >= FEWEST:
            words = f"limits from the {counted(picked)} picked samples only, watch the rest"
            menu.addAction(words).triggered.connect(lambda: self.train_on_rows(picked, "picked samples"))
        if found is not None:
            stretch = menu.addMenu("limits from one class only, watch the rest")
            for name in found.names:
                stretch.addAction(name).triggered.connect(lambda _=False, name=name: self.train_on(name))

    def train_on(self, level: str) -> None:
        """Set every other class aside, to be watched: they stay on the planes and strips in hollow marks."""
        table, column = self.desk.study.state.table, self.desk.study.state.colour_by
        if table is None:
            return
        values = table.class_column(column).values
        self.train_on_rows(tuple(row for row, value in enumerate(values) if value == level), level)

    def train_on_rows(self, training: tuple[int, ...], words: str) -> None:
        """Set all samples but these aside, to be watched."""
        table = self.desk.study.state.table
        if table is None:
            return
        kept = {*training, *table.set_aside}
        rows = tuple(row for row in range(len(table.ids)) if row not in kept)
        if rows:
            self.desk.do(Watch(rows))

    def _add(self, words: str, on: bool, **fields: Any) -> None:
        action = self.choices.addAction(words)
        action.setCheckable(True)
        action.setChecked(on)
        limits = replace(self.desk.study.state.recipe.limits, **fields)
        action.triggered.connect(lambda _=False: self.desk.do(LimitBy(limits)))
