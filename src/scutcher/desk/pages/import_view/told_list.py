"""What was found in a file, line by line, with buttons that act on it."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from scutcher.desk.words import Words

Act = tuple[str, Callable[[], object]]
"""The words of a button, and what it does."""


class ToldList(QWidget):
    """Lines under each other, from the top."""

    def __init__(self) -> None:
        super().__init__()
        self._lines = QVBoxLayout(self)
        self._lines.setContentsMargins(8, 2, 8, 8)
        self._lines.setSpacing(4)

    def clear(self) -> None:
        """Tell nothing."""
        while (item := self._lines.takeAt(0)) is not None:
            if (old := item.widget()) is not None:
                old.hide()
                old.deleteLater()

    def tell(self, text: str, acts: Sequence[Act] = ()) -> None:
        """One more line."""
        line = QWidget()
        row = QHBoxLayout(line)
        row.setContentsMargins(0, 0, 0, 0)
        label = Words(f"· {text}")
        label.setTextFormat(Qt.TextFormat.PlainText)
        label.setWordWrap(True)
        row.addWidget(label, 1)
        for words, act in acts:
            button = QPushButton(words)
            button.clicked.connect(lambda _=False, act=act: act())
            row.addWidget(button)
        self._lines.addWidget(line)

    def end(self) -> None:
        """That is all: what room is left stays below."""
        self._lines.addStretch(1)
