"""A tiny picture of the data at a knot: one mean line per class."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QRectF, QSize
from PySide6.QtGui import QColor, QPainter, QPainterPath, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from scutcher.charts import colours
from scutcher.charts.description import Lines
from scutcher.desk.guard import guarded
from scutcher.desk.painting.painters import line_path, paint_frame

WIDE, HEIGHT = 160, 32
"""Pixels."""


class Miniature(QWidget):
    """Draws the lines of a chart into a small frame, scaled to fit."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._paths: list[tuple[str, QPainterPath]] = []
        self.lines: Lines | None = None
        self.setFixedHeight(HEIGHT)

    def show_lines(self, lines: Lines | None) -> None:
        """Put other lines in; the same object again costs nothing."""
        if lines is self.lines:
            return
        self.lines = lines
        self._paths = []
        self.update()

    def sizeHint(self) -> QSize:
        """Small."""
        return QSize(WIDE, HEIGHT)

    def resizeEvent(self, event: object) -> None:
        """Paths are made for one size."""
        self._paths = []

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        """Draw the frame and the lines."""
        painter = QPainter(self)
        painter.setBrush(QColor(colours.PAPER))
        frame = paint_frame(painter, self)
        if self.lines is not None and not self._paths:
            self._paths = _paths(self.lines, frame.adjusted(2.0, 3.0, -2.0, -3.0))
        for colour, path in self._paths:
            painter.strokePath(path, QPen(QColor(colour), 1.0))


def _paths(lines: Lines, area: QRectF) -> list[tuple[str, QPainterPath]]:
    finite = lines.ys[np.isfinite(lines.ys)]
    if not finite.size:
        return []
    low, high = float(finite.min()), float(finite.max())
    step = max(len(lines.x) // int(max(area.width(), 1.0)), 1)
    x = lines.x[::step]
    across = area.left() + (x - x.min()) / (np.ptp(x) or 1.0) * area.width()
    paths = []
    for values, code in zip(lines.ys[:, ::step], lines.codes, strict=True):
        down = area.bottom() - (values - low) / ((high - low) or 1.0) * area.height()
        paths.append((colours.class_colour(int(code)), line_path(across, down)))
    return paths
