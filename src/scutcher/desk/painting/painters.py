"""A painter in our manner, for views that draw themselves."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QBrush, QColor, QPainter, QPen
from PySide6.QtWidgets import QWidget

from scutcher.charts import colours


def painter_of(widget: QWidget, letters: int) -> QPainter:
    """A painter with smooth edges.

    Parameters
    ----------
    letters : their size in pixels
    """
    painter = QPainter(widget)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    font = painter.font()
    font.setPixelSize(letters)
    painter.setFont(font)
    return painter


def paint_frame(painter: QPainter, widget: QWidget) -> QRectF:
    """A hairline around the whole of a widget, smooth from then on; where it stands."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    frame = QRectF(widget.rect()).adjusted(0.5, 0.5, -0.5, -0.5)
    painter.setPen(QPen(QColor(colours.HAIRLINE), 1.0))
    painter.drawRect(frame)
    return frame


def paint_rung(
    painter: QPainter, box: QRectF, share: float, filling: QBrush | QColor, held_out: float
) -> None:
    """A box of a ladder, filled from below; what was held out as a line across, where it is known.

    Parameters
    ----------
    share, held_out : fractions of the box
        `held_out` is NaN where it is not known.
    """
    painter.setPen(QPen(QColor(colours.HAIRLINE), 1.0))
    painter.setBrush(QColor(colours.PAPER))
    painter.drawRect(box)
    tall = min(max(share, 0.0), 1.0) * box.height()
    painter.fillRect(QRectF(box.left(), box.bottom() - tall, box.width(), tall), filling)
    if held_out == held_out:
        y = box.bottom() - min(max(held_out, 0.0), 1.0) * box.height()
        painter.setPen(QPen(QColor(colours.ALARM), 2.0))
        painter.drawLine(QPointF(box.left(), y), QPointF(box.right(), y))
