"""An axis title beside a plot, level or upright, that can be clicked."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QSize, Qt
from PySide6.QtGui import QColor, QFontMetrics, QHelpEvent, QPainter, QPaintEvent
from PySide6.QtWidgets import QAbstractButton, QSizePolicy, QToolTip, QWidget

from scutcher.charts import colours
from scutcher.desk.guard import guarded
from scutcher.desk.words import tip


class AxisTitle(QAbstractButton):
    """Words along an axis; when `clickable`, they are underlined under the pointer and have the focus."""

    def __init__(self, upright: bool = False, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("axistitle")
        self._upright, self._words = upright, ""
        self.set_clickable(False)
        fixed, free = QSizePolicy.Policy.Fixed, QSizePolicy.Policy.Ignored
        self.setSizePolicy(*((fixed, free) if upright else (free, fixed)))

    def set_clickable(self, clickable: bool) -> None:
        """Whether a click does something."""
        self._clickable = clickable
        self.setEnabled(clickable)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus if clickable else Qt.FocusPolicy.NoFocus)
        self.setCursor(Qt.CursorShape.PointingHandCursor if clickable else Qt.CursorShape.ArrowCursor)

    def text(self) -> str:
        """All of the words."""
        return self._words

    def setText(self, text: str) -> None:
        """Put other words in; they have the room that there is: nothing is laid out anew for them."""
        if text != self._words:
            self._words = text
            self.setAccessibleName(text)
            self.update()

    def sizeHint(self) -> QSize:
        """One line of text, thick."""
        return QSize(16, 60) if self._upright else QSize(60, 16)

    def words(self) -> str:
        """What is drawn: the first of the words, up to a comma, where there is no room for all of them."""
        whole, metrics = self.text(), QFontMetrics(self.font())
        return whole if metrics.horizontalAdvance(whole) <= self._length else whole.partition(", ")[0]

    @property
    def _length(self) -> int:
        return self.height() if self._upright else self.width()

    def event(self, event: QEvent) -> bool:
        """Words that are not all drawn stand in a tooltip."""
        if isinstance(event, QHelpEvent) and not self.toolTip() and self.words() != self.text():
            QToolTip.showText(event.globalPos(), tip(self.text()), self)
            return True
        return bool(super().event(event))

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        """Draw the words in the middle, shortened where they do not fit."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.TextAntialiasing)
        length = self._length
        thick = self.width() if self._upright else self.height()
        if self._upright:
            painter.translate(0, self.height())
            painter.rotate(-90)
        font = self.font()
        active = self._clickable and (self.underMouse() or self.hasFocus())
        font.setUnderline(active)
        painter.setFont(font)
        painter.setPen(QColor(colours.ACCENT if active else colours.INK))
        text = QFontMetrics(font).elidedText(self.words(), Qt.TextElideMode.ElideRight, length)
        painter.drawText(0, 0, length, thick, Qt.AlignmentFlag.AlignCenter, text)
