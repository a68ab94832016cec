"""Views of the scores from outside: a matrix of pairs, a space that is turned by hand."""

from __future__ import annotations

import math
from collections.abc import Callable

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen, QWheelEvent
from PySide6.QtWidgets import QWidget

from scutcher.charts import colours
from scutcher.charts.emphasis import HIDDEN
from scutcher.charts.space import Pairs
from scutcher.charts.words import with_minus
from scutcher.core.arrays import Booleans, Floats, Integers
from scutcher.core.words import shown
from scutcher.desk.guard import guarded
from scutcher.desk.painting.mark_finding import WAYS
from scutcher.desk.painting.sprites import put_sprites

REACH = 10.0  # pixels
BOXING = Qt.KeyboardModifier.ShiftModifier | Qt.KeyboardModifier.ControlModifier
"""Keys with which a drag in space picks in place of turning."""


def inside_box(x: Floats, y: Floats, box: QRectF, strength: Integers) -> Booleans:
    """Which marks are seen and lie in a rectangle of pixels."""
    across = (x >= box.left()) & (x <= box.right())
    inside: Booleans = across & (y >= box.top()) & (y <= box.bottom()) & (strength != HIDDEN)
    return inside


def paint_box(painter: QPainter, box: QRectF) -> None:
    """The rectangle of a pick under way."""
    wash = QColor(colours.ACCENT)
    wash.setAlpha(24)
    painter.setPen(QPen(QColor(colours.ACCENT), 1.2))
    painter.setBrush(wash)
    painter.drawRect(box)


class WholeNumbers:
    """Mixed into views of several components: the table of all of them is what they are copied as."""

    whole: Callable[[], tuple[list[str], list[list[object]]]] | None = None

    def numbers(self) -> tuple[list[str], list[list[object]]]:
        """The table behind it."""
        return ([], []) if self.whole is None else self.whole()


class PairsView(WholeNumbers, QWidget):
    """A matrix: scores below the diagonal, correlations above it. A click or a rectangle picks samples."""

    picked = Signal(object, object)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.found: Pairs | None = None
        self.strength: Integers = np.empty(0, np.intp)
        self._cell: tuple[int, int] | None = None
        self._box: QRectF | None = None
        self._pressed = QPointF()

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

    @guarded
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
                    put_sprites(
                        painter, x[order], y[order], self.found.codes[order], self.strength[order], 5.5
                    )
                else:
                    self._paint_words(painter, area, row, column)
        if self._box is not None:
            paint_box(painter, self._box)

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

    def _cell_at(self, at: QPointF) -> tuple[int, int] | None:
        """Row and column of the scores under a place."""
        m = 0 if self.found is None else self.found.scores.shape[1]
        row, column = int(at.y() / self.height() * m), int(at.x() / self.width() * m)
        return (row, column) if 0 <= column < row < m else None

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """A rectangle begins; nothing is picked where correlations stand."""
        at = event.position()
        self._cell = self._cell_at(at)
        self._box = None if self._cell is None else QRectF(at, at)
        self._pressed = at

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """The rectangle grows inside its cell."""
        if self._box is not None and self._cell is not None:
            box = QRectF(self._pressed, event.position()).normalized()
            self._box = box.intersected(self.cell(*self._cell))
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """Pick what is inside, or the nearest sample of the cell where nothing was drawn."""
        box, self._box = self._box, None
        if box is None or self._cell is None or self.found is None:
            return
        x, y = self.places(*self._cell)
        if box.width() + box.height() > 6.0:
            inside = inside_box(x, y, box, self.strength)
        else:
            away = np.hypot(x - self._pressed.x(), y - self._pressed.y())
            inside = (away == away.min()) & (away <= REACH)
        self.picked.emit(self.found.rows[inside].tolist(), event.modifiers())
        self.update()


def _signed(value: float) -> str:
    """Two places and a true sign; zero has none."""
    rounded = round(float(value), 2)
    return "0.00" if rounded == 0.0 else with_minus(shown(rounded, "+.2f"))


class TurnView(WholeNumbers, QWidget):
    """Three components in space: drag to turn, wheel to come nearer, click to pick.

    With Shift or Ctrl held, a drag picks what is inside a rectangle.
    """

    picked = Signal(object, object)

    def __init__(self, parent: QWidget | None = None, size: float = 8.0) -> None:
        super().__init__(parent)
        self.mark_size = size
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.points: Floats = np.empty((0, 3))
        self.rows: Integers = np.empty(0, np.intp)
        self.codes: Integers = np.empty(0, np.intp)
        self.strength: Integers = np.empty(0, np.intp)
        self.names = ("", "", "")
        self.turned, self.tilted, self.near = 0.6, 0.4, 1.0
        self._pressed: QPointF | None = None
        self._moved = False
        self._box: QRectF | None = None

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

    @guarded
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
            put_sprites(painter, x[order], y[order], self.codes[order], self.strength[order], self.mark_size)
        if self._box is not None:
            paint_box(painter, self._box)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Take hold."""
        self._pressed, self._moved = event.position(), False
        self._box = QRectF(event.position(), event.position()) if event.modifiers() & BOXING else None

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Turn, or draw the rectangle."""
        if self._pressed is None:
            return
        if self._box is not None:
            self._box = QRectF(self._pressed, event.position()).normalized()
            self._moved = self._moved or self._box.width() + self._box.height() > 3
            self.update()
            return
        by = event.position() - self._pressed
        if self._moved or by.manhattanLength() > 3:
            self._moved = True
            self.turned -= by.x() * 0.008
            self.tilted = min(max(self.tilted + by.y() * 0.008, -1.5), 1.5)
            self._pressed = event.position()
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """A click without a turn picks; so does a rectangle."""
        box, self._box = self._box, None
        if box is not None and self._moved:
            x, y, _ = self.seen(self.points)
            self.picked.emit(self.rows[inside_box(x, y, box, self.strength)].tolist(), event.modifiers())
            self.update()
        elif not self._moved and len(self.points):
            x, y, _ = self.seen(self.points)
            away = np.hypot(x - event.position().x(), y - event.position().y())
            nearest = int(away.argmin())
            rows = [int(self.rows[nearest])] if away[nearest] <= REACH else []
            self.picked.emit(rows, event.modifiers())
        self._pressed = None

    def wheelEvent(self, event: QWheelEvent) -> None:
        """Nearer or farther."""
        self._come(1.0015 ** event.angleDelta().y())

    def _come(self, times: float) -> None:
        self.near = min(max(self.near * times, 0.4), 4.0)
        self.update()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Arrows turn, + and − come nearer and go farther."""
        way = WAYS.get(Qt.Key(event.key()))
        if way is not None:
            self.turned -= 0.1 * way[0]
            self.tilted = min(max(self.tilted + 0.1 * way[1], -1.5), 1.5)
            self.update()
        elif event.key() in (Qt.Key.Key_Plus, Qt.Key.Key_Minus):
            self._come(1.15 if event.key() == Qt.Key.Key_Plus else 1.0 / 1.15)
        else:
            super().keyPressEvent(event)
