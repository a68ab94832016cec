"""Views of the scores from outside: a matrix of pairs, a space that is turned by hand, pictures."""

from __future__ import annotations

import math

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QImage, QMouseEvent, QPainter, QPaintEvent, QPen, QWheelEvent
from PySide6.QtWidgets import QWidget

from scutcher.charts import colours
from scutcher.charts.emphasis import FADED, HIDDEN
from scutcher.charts.space import GridAxes, Landscape, Pairs
from scutcher.core.arrays import Floats, Integers
from scutcher.desk.painting.marks_item import sprite

REACH = 10.0  # pixels


def put_marks(
    painter: QPainter, x: Floats, y: Floats, codes: Integers, strength: Integers, size: float, order: Integers
) -> None:
    """Sprites at pixel places, in an order from back to front."""
    ratio = painter.device().devicePixelRatioF()
    made = {}
    for place in order.tolist():
        if strength[place] == HIDDEN:
            continue
        code, faded = int(codes[place]), strength[place] == FADED
        key = (code, faded)
        if key not in made:
            colour = colours.FADED if faded else colours.class_colour(code)
            made[key] = sprite(colours.class_shape(code), colour, size, ratio)
        pixmap = made[key]
        half = pixmap.deviceIndependentSize().width() / 2.0
        painter.drawPixmap(QPointF(x[place] - half, y[place] - half), pixmap)


class PairsView(QWidget):
    """A matrix: scores below the diagonal, correlations above it. A click picks a sample."""

    picked = Signal(object, object)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.found: Pairs | None = None
        self.strength: Integers = np.empty(0, np.intp)

    def show_pairs(self, found: Pairs, strength: Integers) -> None:
        """Put other scores in."""
        self.found, self.strength = found, strength
        self.update()

    def cell(self, row: int, column: int) -> QRectF:
        """Where a cell of the matrix is."""
        m = 1 if self.found is None else self.found.scores.shape[1]
        wide, tall = self.width() / m, self.height() / m
        return QRectF(column * wide + 3, row * tall + 3, wide - 6, tall - 6)

    def places(self, row: int, column: int) -> tuple[Floats, Floats]:
        """Where the samples are in a cell, in pixels."""
        assert self.found is not None
        area = self.cell(row, column).adjusted(7, 7, -7, -7)
        x, y = self.found.scores[:, column], self.found.scores[:, row]
        across = area.left() + (x - x.min()) / (np.ptp(x) or 1.0) * area.width()
        down = area.bottom() - (y - y.min()) / (np.ptp(y) or 1.0) * area.height()
        return across, down

    def paintEvent(self, event: QPaintEvent) -> None:
        """All cells."""
        if self.found is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        m = self.found.scores.shape[1]
        order = np.argsort(self.strength, kind="stable")
        for row in range(m):
            for column in range(m):
                area = self.cell(row, column)
                painter.setPen(QPen(QColor(colours.HAIRLINE), 1.0))
                painter.setBrush(QColor(colours.PAPER))
                painter.drawRect(area)
                if column < row:
                    x, y = self.places(row, column)
                    put_marks(painter, x, y, self.found.codes, self.strength, 5.5, order)
                else:
                    self._paint_words(painter, area, row, column)

    def _paint_words(self, painter: QPainter, area: QRectF, row: int, column: int) -> None:
        assert self.found is not None
        painter.setPen(QColor(colours.INK))
        if row == column:
            painter.drawText(area, Qt.AlignmentFlag.AlignCenter, f"component {row + 1}")
            return
        within = self.found.within[row, column]
        words = f"all  {_signed(self.found.overall[row, column])}"
        if np.isfinite(within):
            words += f"\nwithin classes  {_signed(within)}"
        painter.drawText(area, Qt.AlignmentFlag.AlignCenter, words)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Pick the nearest sample of the cell."""
        if self.found is None:
            return
        m = self.found.scores.shape[1]
        at = event.position()
        row, column = int(at.y() / self.height() * m), int(at.x() / self.width() * m)
        if column >= row:
            return
        x, y = self.places(row, column)
        away = np.hypot(x - at.x(), y - at.y())
        nearest = int(away.argmin())
        rows = [int(self.found.rows[nearest])] if away[nearest] <= REACH else []
        self.picked.emit(rows, event.modifiers())


def _signed(value: float) -> str:
    """Two places and a true sign; zero has none."""
    rounded = round(float(value), 2)
    return "0.00" if rounded == 0.0 else f"{rounded:+.2f}".replace("-", "−")


class TurnView(QWidget):
    """Three components in space: drag to turn, wheel to come nearer, click to pick."""

    picked = Signal(object, object)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.points: Floats = np.empty((0, 3))
        self.rows: Integers = np.empty(0, np.intp)
        self.codes: Integers = np.empty(0, np.intp)
        self.strength: Integers = np.empty(0, np.intp)
        self.names = ("", "", "")
        self.turned, self.tilted, self.near = 0.6, 0.4, 1.0
        self._pressed: QPointF | None = None
        self._moved = False

    def show_points(
        self, scores: Floats, rows: Integers, codes: Integers, strength: Integers, names: tuple[str, str, str]
    ) -> None:
        """Put other scores in, (n, 3)."""
        size = np.abs(scores).max(axis=0)
        self.points = scores / np.where(size > 0.0, size, 1.0)
        self.rows, self.codes, self.strength, self.names = rows, codes, strength, names
        self.update()

    def seen(self, points: Floats) -> tuple[Floats, Floats, Floats]:
        """Pixels across and down, and depth, of points in the unit cube."""
        a, b = self.turned, self.tilted
        x = points[:, 0] * math.cos(a) + points[:, 1] * math.sin(a)
        y = -points[:, 0] * math.sin(a) + points[:, 1] * math.cos(a)
        depth = y * math.cos(b) - points[:, 2] * math.sin(b)
        up = y * math.sin(b) + points[:, 2] * math.cos(b)
        scale = 0.38 * self.near * min(self.width(), self.height())
        shrink = 3.2 / (3.2 + depth)
        return self.width() / 2 + x * scale * shrink, self.height() / 2 - up * scale * shrink, depth

    def paintEvent(self, event: QPaintEvent) -> None:
        """Axes, then the marks from back to front."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.fillRect(self.rect(), QColor(colours.PAPER))
        for axis in range(3):
            ends = np.zeros((2, 3))
            ends[:, axis] = (-1.15, 1.15)
            x, y, _ = self.seen(ends)
            painter.setPen(QPen(QColor(colours.FADED), 1.0))
            painter.drawLine(QPointF(x[0], y[0]), QPointF(x[1], y[1]))
            painter.setPen(QColor(colours.INK))
            painter.drawText(QPointF(x[1] + 4, y[1]), self.names[axis])
        if len(self.points):
            x, y, depth = self.seen(self.points)
            order = np.lexsort((-depth, self.strength))
            put_marks(painter, x, y, self.codes, self.strength, 8.0, order)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Take hold."""
        self._pressed, self._moved = event.position(), False

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Turn."""
        if self._pressed is None:
            return
        by = event.position() - self._pressed
        if self._moved or by.manhattanLength() > 3:
            self._moved = True
            self.turned -= by.x() * 0.008
            self.tilted = min(max(self.tilted + by.y() * 0.008, -1.5), 1.5)
            self._pressed = event.position()
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """A click without a turn picks."""
        if not self._moved and len(self.points):
            x, y, _ = self.seen(self.points)
            away = np.hypot(x - event.position().x(), y - event.position().y())
            nearest = int(away.argmin())
            rows = [int(self.rows[nearest])] if away[nearest] <= REACH else []
            self.picked.emit(rows, event.modifiers())
        self._pressed = None

    def wheelEvent(self, event: QWheelEvent) -> None:
        """Nearer or farther."""
        self.near = min(max(self.near * 1.0015 ** event.angleDelta().y(), 0.4), 4.0)
        self.update()


class LandscapesView(QWidget):
    """Pictures side by side, each with its own range of colours."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.pictures: list[Landscape] = []
        self.axes: GridAxes | None = None

    def show_pictures(self, pictures: list[Landscape], axes: GridAxes | None) -> None:
        """Put other pictures in."""
        self.pictures, self.axes = pictures, axes
        self.update()

    def paintEvent(self, event: QPaintEvent) -> None:
        """Four in a row."""
        painter = QPainter(self)
        if not self.pictures:
            painter.setPen(QColor(colours.MUTED))
            words = (
                "Variables named excitation/emission (two numbers and a stroke) are shown as pictures here."
            )
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, words)
            return
        rows = -(-len(self.pictures) // 4)
        wide, tall = self.width() / 4, self.height() / rows
        for place, picture in enumerate(self.pictures):
            area = QRectF((place % 4) * wide + 8, (place // 4) * tall + 4, wide - 16, tall - 12)
            painter.setPen(QColor(colours.INK))
            painter.drawText(
                area.adjusted(0, 0, 0, -area.height() + 18), Qt.AlignmentFlag.AlignLeft, picture.title
            )
            frame = area.adjusted(0, 20, 0, -16)
            painter.drawImage(frame, image_of(picture))
            painter.setPen(QPen(QColor(colours.HAIRLINE), 1.0))
            painter.drawRect(frame)
            if self.axes is not None:
                painter.setPen(QColor(colours.MUTED))
                ends = f"{self.axes.columns[0]:g} → {self.axes.columns[-1]:g} across, "
                ends += f"{self.axes.rows[0]:g} → {self.axes.rows[-1]:g} up"
                under = QRectF(frame.left(), frame.bottom() + 1, frame.width(), 15)
                painter.drawText(under, Qt.AlignmentFlag.AlignLeft, ends)


def image_of(picture: Landscape) -> QImage:
    """A picture in the colours of its kind; the first row lowest."""
    values = picture.values[::-1]
    known = np.nan_to_num(values)
    if picture.signed:
        size = float(np.abs(known).max()) or 1.0
        shares = (known / size + 1.0) / 2.0
        table = colours.signed_map()
    else:
        low, span = float(known.min()), float(np.ptp(known)) or 1.0
        shares = (known - low) / span
        table = colours.unsigned_map()
    pixels = np.array(table, dtype=np.uint8)[np.clip(shares * 255, 0, 255).astype(int)]
    pixels = np.ascontiguousarray(pixels)
    height, width = values.shape
    return QImage(pixels.data, width, height, 3 * width, QImage.Format.Format_RGB888).copy()
