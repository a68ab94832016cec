"""Words on a screen as they are: what comes from data is never taken for markup."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QLabel, QWidget


def tip(text: str) -> str:
    """Words for a tooltip: Qt takes for markup what looks like it, so that it must be escaped."""
    return f"<qt>{escaped(text)}</qt>".replace("\n", "<br>") if "<" in text else text


def escaped(text: str) -> str:
    """Words that come from data, to stand in markup."""
    from html import escape  # with all entities, which the first frame needs not

    return escape(text, quote=False)


class Words(QLabel):
    """A label of plain text; `show_rich` takes markup of our own, in which foreign words are escaped."""

    def __init__(self, text: str = "", parent: QWidget | None = None) -> None:
        super().__init__(text, parent)
        self.setTextFormat(Qt.TextFormat.PlainText)

    def setText(self, text: str) -> None:
        """Put plain words in; the same again costs nothing."""
        if text != self.text() or self.textFormat() != Qt.TextFormat.PlainText:
            self.setTextFormat(Qt.TextFormat.PlainText)
            super().setText(text)

    def setToolTip(self, text: str) -> None:
        """Explain it in plain words; the same again costs nothing."""
        if (told := tip(text)) != self.toolTip():
            super().setToolTip(told)

    def show_rich(self, text: str) -> None:
        """Put markup in; the same again costs nothing."""
        if text != self.text() or self.textFormat() != Qt.TextFormat.RichText:
            self.setTextFormat(Qt.TextFormat.RichText)
            super().setText(text)


class Steady(Words):
    """Words whose place grows with them and never shrinks: nothing beside them moves for a digit."""

    def setText(self, text: str) -> None:
        """Put plain words in."""
        super().setText(text)
        room = self.sizeHint().expandedTo(self.minimumSize())
        if text and room != self.minimumSize():
            self.setFixedSize(room)
