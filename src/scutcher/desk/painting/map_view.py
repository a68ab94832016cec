"""A map that can be drawn on: one lens for several maps, tools for the pointer, keys for all that they do."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPoint, QPointF, Qt, Signal
from PySide6.QtGui import QKeyEvent, QMouseEvent, QWheelEvent
from PySide6.QtWidgets import QWidget

from scutcher.core.arrays import Booleans
from scutcher.desk.painting.map_canvas import NEAR, MapCanvas
from scutcher.desk.painting.map_shown import MOST_ZOOM, Lens
from scutcher.desk.painting.mark_finding import WAYS
from scutcher.desk.painting.own_keys import OwnKeys


class MapView(MapCanvas):
    """Emits the cell under the pointer and the cells that are picked."""

    hovered = Signal(object)
    pointed = Signal(object)
    """With the place in pixels, not rounded; None beside the picture."""

    picked = Signal(object, object)

    def __init__(self, lens: Lens | None = None, parent: QWidget | None = None) -> None:
        super().__init__(lens, parent)
        self._press: QPoint | None = None
        self._pan: QPointF | None = None
        OwnKeys(self, lambda: self.hand.drawing)

    def wheelEvent(self, event: QWheelEvent) -> None:
        """Nearer or farther, about the pointer."""
        if self.shown is None:
            return
        at, frame = event.position(), self.frame()
        share = QPointF((at.x() - frame.left()) / frame.width(), (at.y() - frame.top()) / frame.height())
        grown = self.lens.scale * (1.25 ** (event.angleDelta().y() / 120.0))
        grown = min(max(grown, 1.0), MOST_ZOOM)
        ratio = self.lens.scale / grown
        self.lens.change(grown, share + (self.lens.centre - share) * ratio)
        event.accept()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Left draws, middle or right moves the picture."""
        if event.button() == Qt.MouseButton.MiddleButton:
            self._pan = event.position()
        elif event.button() == Qt.MouseButton.LeftButton and self.shown is not None:
            self._press = event.position().toPoint()
            if self.hand.tool == "polygon":
                self._add_corner(event)
                return
            self.hand.clear()
            self._draw_to(event.position())

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Tell what is under the pointer; go on drawing or moving."""
        at = event.position()
        if self._pan is not None:
            frame, moved = self.frame(), at - self._pan
            self._pan = at
            self.lens.change(
                self.lens.scale,
                self.lens.centre - QPointF(moved.x() / frame.width(), moved.y() / frame.height()),
            )
            return
        self.pointer = at
        if self._press is not None and self.hand.tool != "polygon":
            self._draw_to(at)
        if self.hand.drawing:
            self.update()
        self._tell(self.cell_at(at), self.in_pixels(at))

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """What was drawn is picked; a click picks the pixel, or what is like it."""
        if event.button() == Qt.MouseButton.MiddleButton:
            self._pan = None
            return
        if self._press is None or self.shown is None or event.button() != Qt.MouseButton.LeftButton:
            return
        far = (event.position() - QPointF(self._press)).manhattanLength() > 4
        self._press = None
        if self.hand.tool == "polygon":
            return
        self._draw_to(event.position())
        cell = self.cell_at(event.position())
        if far or self.hand.tool in ("brush", "flood"):
            self._finish(cell, event.modifiers())
        else:
            self.hand.clear()
            if cell is not None:
                self.picked.emit(self._one(*cell), event.modifiers())
        self.update()

    def _draw_to(self, at: QPointF) -> None:
        place = self.in_pixels(at)
        self.hand.points.append((place.x(), place.y()))

    def _add_corner(self, event: QMouseEvent) -> None:
        """Of a polygon: a click on the first or the last one closes it."""
        place = self.in_pixels(event.position())
        if self.hand.add_corner(place.x(), place.y(), NEAR / self.unit()):
            self._finish(self.cell_at(event.position()), event.modifiers())
        self.update()

    def _finish(self, cell: tuple[int, int] | None, modifiers: Qt.KeyboardModifier) -> None:
        """What was drawn is picked."""
        assert self.shown is not None
        inside = self.hand.pixels(self.cells, self.shown.values, cell)
        self.hand.clear()
        if inside is not None:
            self.picked.emit(inside, modifiers)
        self.update()

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        """All of the picture; a polygon is closed."""
        self._press = None
        if self.hand.tool == "polygon" and self.hand.drawing:
            self._finish(self.cell_at(event.position()), event.modifiers())
        else:
            self.whole()

    def leaveEvent(self, event: object) -> None:
        """Nothing is under the pointer."""
        self._tell(None, QPointF())

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Arrows move the cursor, Space picks, Enter draws, + and − change the scale, 0 shows all."""
        step = WAYS.get(Qt.Key(event.key()))
        if self.shown is None:
            super().keyPressEvent(event)
        elif step is not None:
            rows, columns = self.cells
            column, row = self.cursor_cell or (columns // 2, rows // 2)
            fast = 10 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1
            across, down = self._way(step)
            column = min(max(column + fast * across, 0), columns - 1)
            row = min(max(row + fast * down, 0), rows - 1)
            self._tell((column, row), QPointF(column + 0.5, row + 0.5))
        elif event.key() == Qt.Key.Key_Space and self.cursor_cell is not None:
            self.picked.emit(self._one(*self.cursor_cell), event.modifiers())
        elif event.key() in (Qt.Key.Key_Return, Qt.Key.Key_Enter) and self.cursor_cell is not None:
            if self.hand.enter(self.cursor_cell):
                self._finish(self.cursor_cell, event.modifiers())
            self.update()
        elif event.key() in (Qt.Key.Key_Escape, Qt.Key.Key_Backspace) and self.hand.drawing:
            if event.key() == Qt.Key.Key_Escape:
                self.hand.clear()
            else:
                self.hand.step_back()
            self.update()
        elif event.key() in (Qt.Key.Key_Plus, Qt.Key.Key_Equal, Qt.Key.Key_Minus):
            way = 1.25 if event.key() != Qt.Key.Key_Minus else 0.8
            self.lens.change(self.lens.scale * way, self.lens.centre)
        elif event.key() == Qt.Key.Key_0:
            self.whole()
        else:
            super().keyPressEvent(event)

    def _tell(self, cell: tuple[int, int] | None, place: QPointF) -> None:
        self.hovered.emit(cell)
        self.pointed.emit(None if cell is None else place)

    def _way(self, step: tuple[int, int]) -> tuple[int, int]:
        """A step on screen as columns and rows of the picture."""
        back, _ = self.lens.orientation(0.0, 0.0).inverted()
        found = back.map(QPointF(*step))
        return round(found.x()), round(found.y())

    def _one(self, column: int, row: int) -> Booleans:
        assert self.shown is not None
        found = np.zeros(self.cells, dtype=bool)
        found[row, column] = True
        return found
