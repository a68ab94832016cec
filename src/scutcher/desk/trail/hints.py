"""Five quiet hints on the demo, one at a time, where the trail is free; sent away, they stay away."""

from __future__ import annotations

from contextlib import suppress

import msgspec
from PySide6.QtCore import QSize, Qt
from PySide6.QtWidgets import QFrame, QHBoxLayout, QToolButton, QVBoxLayout, QWidget

from scutcher.core.errors import FileError
from scutcher.desk.context import Desk, follow
from scutcher.desk.words import Words
from scutcher.study.document.state import State
from scutcher.study.storage.settings import keep, settings

DEMO = "intake-nir"

HINTS = (
    "Drag a rectangle around the marks far out at the right of Scores: they come forward in every view.",
    "Three marks stand above the Q limit. Pick them, then press Y: why are they far?",
    "Press Del to set picked samples aside with a reason. Ctrl+Z brings them back.",
    "Drag the handle on the ladder below: scores, loadings and limits follow.",
    "Ctrl+K finds any sample, channel or action by typing; F1 opens the guide.",
)
HIGH = 128
"""Pixels of a hint; where the trail has no such place, none is shown."""


class Hints(QFrame):
    """One hint with *next* and *no more*."""

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("panel")
        self.desk, self.place = desk, 0
        self.wanted, self.allowed = False, True
        self.number, self.words = Words(), Words()
        self.number.setObjectName("quiet")
        self.words.setWordWrap(True)
        self.words.setAlignment(Qt.AlignmentFlag.AlignTop)
        self.next, self.enough = QToolButton(), QToolButton()
        self.next.setText("next")
        self.next.clicked.connect(self.go_on)
        self.enough.setText("no more hints")
        self.enough.setToolTip("Send the hints away for ever")
        self.enough.clicked.connect(self.send_away)
        row = QHBoxLayout()
        row.addWidget(self.enough)
        row.addStretch(1)
        row.addWidget(self.next)
        column = QVBoxLayout(self)
        column.setContentsMargins(8, 5, 6, 4)
        column.setSpacing(3)
        column.addWidget(self.number)
        column.addWidget(self.words, 1)
        column.addLayout(row)
        self.setFixedHeight(HIGH)
        follow(self, desk.study, lambda changed: self.refresh())
        self.refresh()

    def sizeHint(self) -> QSize:
        """As wide as the trail."""
        return QSize(180, HIGH)

    def refresh(self) -> None:
        """There are hints on the demo as it was opened, as long as nobody has sent them away."""
        self.wanted = self.allowed and is_demo(self.desk.study.state) and not settings().no_hints
        self.number.setText(f"Hint {self.place + 1} of {len(HINTS)}")
        self.words.setText(HINTS[self.place])
        self.next.setText("next" if self.place + 1 < len(HINTS) else "from the first")
        if not self.wanted:
            self.hide()

    def fit(self, room: int) -> None:
        """Show it where so many pixels are free."""
        self.setVisible(self.wanted and room >= HIGH)

    def go_on(self) -> None:
        """The next one; after the last the first again."""
        self.place = (self.place + 1) % len(HINTS)
        self.refresh()

    def forbid(self) -> None:
        """None in this window, whatever comes: for pictures of it."""
        self.allowed = False
        self.refresh()

    def send_away(self) -> None:
        """No more hints, now and after every start."""
        self.wanted = False
        self.hide()
        with suppress(FileError):  # then they come again, which does no harm
            keep(msgspec.structs.replace(settings(), no_hints=True))


def is_demo(state: State) -> bool:
    """Whether the study is the demo that the hints speak of."""
    alone = len(state.datasets) == 1
    return alone and state.table is not None and state.table.name == DEMO and not state.source.paths
