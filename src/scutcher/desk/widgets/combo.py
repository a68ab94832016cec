"""A choice that shows that it is one: a drop-down box with a small mark at its right."""

from __future__ import annotations

from PySide6.QtCore import QStringListModel, Qt
from PySide6.QtGui import QColor, QPainter, QPaintEvent
from PySide6.QtWidgets import QComboBox, QListView

from scutcher.charts import colours
from scutcher.desk.guard import guarded

MANY = 200
"""Choices up to which each is an item."""


class Combo(QComboBox):
    """As the library's, with the mark that our style sheet leaves out."""

    def offer(self, words: list[str]) -> None:
        """Choose among these; of very many not all are measured, nor made into items."""
        if len(words) <= MANY:
            self.addItems(words)
            return
        self.setSizeAdjustPolicy(Combo.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
        self.setMinimumContentsLength(max(map(len, words[:MANY])))
        rows = self.view()
        if isinstance(rows, QListView):
            rows.setUniformItemSizes(True)
            rows.setLayoutMode(QListView.LayoutMode.Batched)
        self.setModel(QStringListModel(words, self))

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
