"""The bars beside a table of class models: where the samples of each class belong."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QColor, QFontMetrics, QPainter

from scutcher.charts import colours
from scutcher.charts.class_table import ClassSquare

INKS = (
    ("ACCENT", "PAPER"),
    ("ALARM", "PAPER"),
    ("OCHRE", "PAPER"),
    ("CHIP", "INK"),
)
"""Own class only, another only, several, none: names of the colours of ground and ink."""

WIDEST, NARROWEST, AFTER = 220.0, 60.0, 4.0
"""Pixels of a bar, and of the margin after it."""

LEAST = 16.0
"""Pixels of a part that has its figure in it."""


def bars_room(metrics: QFontMetrics, square: ClassSquare) -> float:
    """Pixels that the bars and the words over them need."""
    return max(float(metrics.horizontalAdvance(square.unit)), NARROWEST) + AFTER


def paint_bars(
    painter: QPainter, square: ClassSquare, rows: Sequence[QRectF], left: float, room: float
) -> None:
    """A bar beside each row, from `left` on, and what its parts are over them."""
    widest = max(min(room - AFTER, WIDEST), NARROWEST)
    painter.setPen(QColor(colours.MUTED))
    over = QRectF(left, 0.0, max(room, widest), rows[0].top())
    painter.drawText(over, Qt.AlignmentFlag.AlignVCenter, square.unit)
    for row, parts in zip(rows, square.bars, strict=True):
        x, total = left, sum(parts) or 1
        for count, (ground, ink) in zip(parts, INKS, strict=True):
            wide = widest * count / total
            area = QRectF(x, row.center().y() - 8.0, max(wide - 1.0, 0.0), 16.0)
            if count:
                painter.fillRect(area, QColor(getattr(colours, ground)))
                painter.setPen(QColor(getattr(colours, ink)))
                if wide > LEAST:
                    painter.drawText(area, Qt.AlignmentFlag.AlignCenter, str(count))
            x += wide
