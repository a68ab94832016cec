"""A choice that shows that it is one: a drop-down box with a small mark at its right."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtGui import QColor, QPainter, QPaintEvent
from PySide6.QtWidgets import QComboBox

from scutcher.charts import colours
from scutcher.desk.guard import guarded


class Combo(QComboBox):
    """As the library's, with the mark that our style sheet leaves out."""

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        """The box, then the mark."""
        super().paintEvent(event)
        painter = QPainter(self)
        painter.setPen(QColor(colours.MUTED))
        painter.drawText(
            self.rect().adjusted(0, 0, -8, 0),
            Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter,
            "▾",
        )
