"""What is painted over a map: grid when near, pick, cursor, what is being drawn, scale bar."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPainterPath, QPen, QPolygonF, QTransform

from scutcher.charts import colours
from scutcher.core.data.layouts import GridLayout
from scutcher.core.words import shown
from scutcher.desk.painting.map_tools import Tool


def paint_grid(painter: QPainter, frame: QRectF, unit: float, room: QRectF) -> None:
    """Lines between pixels."""
    painter.setPen(QPen(QColor(255, 255, 255, 70), 1.0))
    for first, start, end, upright in (
        (frame.left(), room.left(), room.right(), True),
        (frame.top(), room.top(), room.bottom(), False),
    ):
        place = first + np.ceil((start - first) / unit) * unit
        while place < end:
            if upright:
                painter.drawLine(QPointF(place, room.top()), QPointF(place, room.bottom()))
            else:
                painter.drawLine(QPointF(room.left(), place), QPointF(room.right(), place))
            place += unit


def paint_outline(painter: QPainter, outline: QPainterPath, there: QTransform) -> None:
    """What is picked, in pixels that lie on screen as the transform says, dark on light."""
    if outline.isEmpty():
        return
    painter.save()
    painter.setTransform(there, True)
    for colour, width in ((colours.PAPER, 3.6), (colours.INK, 1.5)):
        pen = QPen(QColor(colour), width)
        pen.setCosmetic(True)
        painter.setPen(pen)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPath(outline)
    painter.restore()


def paint_cursor(painter: QPainter, middle: QPointF, words: str, room: QRectF) -> None:
    """Dotted lines through a pixel, and where it is."""
    painter.setPen(QPen(QColor(colours.INK), 1.0, Qt.PenStyle.DotLine))
    painter.drawLine(QPointF(middle.x(), room.top()), QPointF(middle.x(), room.bottom()))
    painter.drawLine(QPointF(room.left(), middle.y()), QPointF(room.right(), middle.y()))
    wide = painter.fontMetrics().horizontalAdvance(words) + 8
    box = QRectF(middle.x() + 6, middle.y() + 6, wide, painter.fontMetrics().height() + 2)
    if box.right() > room.right():
        box.moveRight(middle.x() - 6)
    if box.bottom() > room.bottom():
        box.moveBottom(middle.y() - 6)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(QColor(colours.PAPER))
    painter.drawRect(box)
    painter.setPen(QColor(colours.INK))
    painter.drawText(box, Qt.AlignmentFlag.AlignCenter, words)


def paint_drawn(painter: QPainter, drawn: list[QPointF], tool: Tool, unit: float) -> None:
    """What is being drawn with a tool."""
    if len(drawn) < 2:
        return
    painter.setPen(QPen(QColor(colours.ACCENT), 1.4))
    painter.setBrush(_veiled(colours.ACCENT, 30))
    if tool == "box":
        painter.drawRect(QRectF(drawn[0], drawn[-1]).normalized())
    elif tool == "brush":
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(_veiled(colours.ACCENT, 90), max(3.0 * unit, 3.0)))
        painter.drawPolyline(QPolygonF(drawn))
    else:
        painter.drawPolygon(QPolygonF(drawn))


def paint_bar(painter: QPainter, layout: GridLayout, unit: float, room: QRectF) -> None:
    """A length that is round in the unit of the pixels and takes a fifth of the room at most."""
    size, name = (layout.pixel, layout.unit) if layout.pixel else (1.0, "px")
    name = "pixels" if name == "px" else name
    most = room.width() / 5.0 / unit * size
    if not most > 0.0:
        return
    ten = 10.0 ** np.floor(np.log10(most))
    length = max(step * ten for step in (1.0, 2.0, 5.0) if step * ten <= most)
    wide = length / size * unit
    words = f"{shown(length)} {name if length != 1.0 or name != 'pixels' else 'pixel'}"
    text = painter.fontMetrics().horizontalAdvance(words)
    tall = painter.fontMetrics().height()
    box = QRectF(room.right() - wide - text - 18, room.bottom() - tall - 5, wide + text + 16, tall + 4)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(_veiled(colours.PAPER, 215))
    painter.drawRect(box)
    painter.setPen(QColor(colours.INK))
    painter.drawText(box.adjusted(4, 0, 0, 0), Qt.AlignmentFlag.AlignVCenter, words)
    painter.setPen(QPen(QColor(colours.INK), 2.0))
    right, level = box.right() - 4, box.center().y()
    painter.drawLine(QPointF(right - wide, level), QPointF(right, level))


def _veiled(colour: str, strength: int) -> QColor:
    """A colour that lets what is under it through; 255 for none."""
    found = QColor(colour)
    found.setAlpha(strength)
    return found
