"""A painter in our manner, for views that draw themselves."""

from __future__ import annotations

import struct

import numpy as np
from PySide6.QtCore import QByteArray, QDataStream, QPointF, QRectF
from PySide6.QtGui import QBrush, QColor, QFont, QPainter, QPainterPath, QPen
from PySide6.QtWidgets import QWidget

from scutcher.charts import colours
from scutcher.core.arrays import Floats


def painter_of(widget: QWidget, letters: int) -> QPainter:
    """A painter with smooth edges.

    Parameters
    ----------
    letters : their size in pixels
    """
    painter = QPainter(widget)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.setFont(lettered(painter.font(), letters))
    return painter


def lettered(font: QFont, letters: int) -> QFont:
    """A font as another, its letters so many pixels high."""
    other = QFont(font)
    other.setPixelSize(letters)
    return other


def paint_frame(painter: QPainter, widget: QWidget) -> QRectF:
    """A hairline around the whole of a widget, smooth from then on; where it stands."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    frame = QRectF(widget.rect()).adjusted(0.5, 0.5, -0.5, -0.5)
    painter.setPen(QPen(QColor(colours.HAIRLINE), 1.0))
    painter.drawRect(frame)
    return frame


def line_path(across: Floats, down: Floats) -> QPainterPath:
    """A line through places in pixels, (m,) and (m,), broken where one is not a number.

    All at once, as Qt writes paths into its streams: point by point takes ten times as long.
    """
    seen = np.isfinite(across) & np.isfinite(down)
    points = np.empty(int(seen.sum()), dtype=[("joined", ">i4"), ("x", ">f8"), ("y", ">f8")])
    points["joined"] = np.append(False, seen[:-1])[seen]
    points["x"], points["y"] = across[seen], down[seen]
    path = QPainterPath()
    if len(points):
        raw = struct.pack(">i", len(points)) + points.tobytes() + struct.pack(">ii", 0, 0)
        QDataStream(QByteArray(raw)) >> path
    return path


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
