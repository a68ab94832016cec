"""Quiet words beside a heading, and headings: both give way where there is no room for all of them."""

from __future__ import annotations

import re

from PySide6.QtCore import QSize, Qt
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QResizeEvent
from PySide6.QtWidgets import QLabel, QSizePolicy

from scutcher.charts import colours
from scutcher.desk.guard import guarded
from scutcher.desk.words import Words

LEAST_NOTE = 36
"""Pixels below which nothing that can be read is left of a note."""


class Note(Words):
    """Quiet words that give way where there is no room for all of them, and then stand in the tooltip.

    Where there is room for hardly any, there are none.
    """

    _muted = False
    _markup, _needs = "", 0
    """All of the markup that is in it, and the pixels that this needs."""
    _own: str | None = None
    """Its words where it has the room that is left, whatever they are: nothing is laid out anew for them."""

    def text(self) -> str:
        """What it says."""
        return super().text() if self._own is None else self._own

    def mute(self, muted: bool) -> None:
        """Draw them paler, or as ever; a style sheet of their own would take many times as long."""
        self._muted = muted
        self.update()

    def minimumSizeHint(self) -> QSize:
        """As narrow as need be."""
        return QSize(0, super().minimumSizeHint().height())

    def setText(self, text: str) -> None:
        """Put other words in."""
        if self.sizePolicy().horizontalPolicy() != QSizePolicy.Policy.Ignored:
            super().setText(text)
        elif text != self.text() or self._own is None:
            if self._own is None:
                super().setText("")
            self._own = text
            self.setAccessibleName(text)
            self.update()
        self.setToolTip(text)

    def show_rich(self, text: str) -> None:
        """Put markup in, which is never cut: where its room is short, what can be spared goes."""
        if self._own is not None:
            self._own = None
            self.setAccessibleName("")
        if text != self._markup or self.textFormat() != Qt.TextFormat.RichText:
            super().show_rich(text)
            self._markup, self._needs = text, self.sizeHint().width()
        self._fit_markup()

    def resizeEvent(self, event: QResizeEvent) -> None:
        """Markup has all of its words again, or fewer."""
        super().resizeEvent(event)
        if self.textFormat() == Qt.TextFormat.RichText:
            self._fit_markup()

    def _fit_markup(self) -> None:
        fits = self._needs <= self.width()
        super().show_rich(self._markup if fits else SPARED.sub("", self._markup))
        QLabel.setToolTip(self, "" if fits else f"<qt>{self._markup}</qt>")

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        """Plain words are cut with an ellipsis."""
        rich = self.textFormat() == Qt.TextFormat.RichText
        fits = rich or self.fontMetrics().horizontalAdvance(self.text()) <= self.width()
        if rich or (fits and not self._muted and self._own is None):
            super().paintEvent(event)
            return
        if not fits and self.width() < LEAST_NOTE:
            return
        painter = QPainter(self)
        painter.setPen(QColor(colours.MUTED) if self._muted else self.palette().color(self.foregroundRole()))
        words = self.fontMetrics().elidedText(self.text(), Qt.TextElideMode.ElideRight, self.width())
        painter.drawText(self.rect(), self.alignment() | Qt.AlignmentFlag.AlignVCenter, words)


SPARED = re.compile(r" \([^()]*\)|(?:&nbsp;)*<span>.*?</span>")
"""What markup can do without: words in brackets, and plain spans."""


class Title(Note):
    """A heading; what it means stands in its tooltip, under all of its words."""

    def __init__(self, definition: str) -> None:
        super().__init__()
        self._definition = definition
        super().setToolTip(definition)

    def minimumSizeHint(self) -> QSize:
        """Its first words stay; a short heading stays whole."""
        full = QLabel.minimumSizeHint(self)
        return QSize(min(full.width(), LEAST_TITLE), full.height())

    def setText(self, text: str) -> None:
        """Put other words in."""
        QLabel.setText(self, text)
        self.setToolTip(self._definition)

    def setToolTip(self, text: str) -> None:
        """Another meaning."""
        self._definition = text
        words = self.text()
        super().setToolTip(f"{words}\n\n{text}" if len(words) > LONG_TITLE else text)


LEAST_TITLE = 128
"""Pixels of a heading that are never cut."""

LONG_TITLE = 20
"""Letters of a heading that may be cut."""
