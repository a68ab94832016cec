"""A map on screen: pixels, what is picked in outline, the cursor, a scale bar; one lens for several maps."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPoint, QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import (
    QColor,
    QImage,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPainterPath,
    QPaintEvent,
    QPen,
    QPolygonF,
    QWheelEvent,
)
from PySide6.QtWidgets import QWidget

from scutcher.charts import colours
from scutcher.charts.description import Chart
from scutcher.core.arrays import Booleans
from scutcher.desk.guard import guarded
from scutcher.desk.painting.map_marks import paint_bar, paint_cursor, paint_drawn, paint_grid, paint_outline
from scutcher.desk.painting.map_shown import MOST_ZOOM, Lens, Outline, Shown
from scutcher.desk.painting.map_tools import Tool, inside_line, inside_stroke, like_neighbours
from scutcher.desk.painting.mark_finding import WAYS

NEAR = 9.0
"""Points of the screen that a pixel takes before a grid is drawn between them."""

MARGIN = 6


class MapView(QWidget):
    """Emits the cell under the pointer and the cells that are picked; knows nothing of samples."""

    hovered = Signal(object)
    picked = Signal(object, object)

    def __init__(self, lens: Lens | None = None, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setMouseTracking(True)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMinimumSize(80, 60)
        self.setAccessibleName("Map")
        self.lens = lens or Lens()
        leave = self.lens.subscribe(lambda changed: self.update())
        self.destroyed.connect(lambda: leave())
        self.shown: Shown | None = None
        self.smooth = False
        self.tool: Tool = "box"
        self.cursor_cell: tuple[int, int] | None = None
        self._image: tuple[tuple[int, ...], QImage] | None = None
        self._outline = QPainterPath()
        self._drawn: list[QPointF] = []
        self._press: QPoint | None = None
        self._pan: QPointF | None = None

    @property
    def chart(self) -> Chart | None:
        """What it shows, as data."""
        return None if self.shown is None else self.shown.chart

    def sizeHint(self) -> QSize:
        """Some room."""
        return QSize(320, 220)

    def show_map(self, shown: Shown | None) -> None:
        """Put another map in."""
        self.shown = shown
        self._image = None
        self.update()

    def _part(self, frame: QRectF, room: QRectF) -> tuple[QRectF, QImage]:
        """The part of the picture that can be seen, no finer than the screen; and where it is drawn."""
        assert self.shown is not None
        ends = []
        for start, size, low, high, count in (
            (frame.top(), frame.height(), room.top(), room.bottom(), self.shown.pixels[0]),
            (frame.left(), frame.width(), room.left(), room.right(), self.shown.pixels[1]),
        ):
            unit = size / count
            step = max(1, int(1.0 / unit))
            first = max(0, int((low - start) / unit)) // step * step
            last = min(count, int((high - start) / unit) + 1 + step)
            ends.append((first, last, step, start + first * unit, unit))
        (top, bottom, tall, y, across), (left, right, wide, x, along) = ends
        key = (top, bottom, tall, left, right, wide)
        if self._image is None or self._image[0] != key:
            held = np.ascontiguousarray(
                self.shown.paint((slice(top, bottom, tall), slice(left, right, wide)))
            )
            rows, columns = held.shape[:2]
            image = QImage(held.tobytes(), columns, rows, 3 * columns, QImage.Format.Format_RGB888).copy()
            self._image = (key, image)
        image = self._image[1]
        return QRectF(x, y, image.width() * wide * along, image.height() * tall * across), image

    def show_outline(self, polygons: Outline) -> None:
        """What is picked, as rings of corners in pixels."""
        path = QPainterPath()
        for polygon in polygons:
            for ring in polygon:
                path.addPolygon(QPolygonF([QPointF(x, y) for x, y in ring]))
        self._outline = path
        self.update()

    def show_cursor(self, cell: tuple[int, int] | None) -> None:
        """The column and row that the pointer is on, here or on another map."""
        if cell != self.cursor_cell:
            self.cursor_cell = cell
            self.update()

    def whole(self) -> None:
        """All of it."""
        self.lens.whole()

    # Where things are

    @property
    def cells(self) -> tuple[int, int]:
        """Rows and columns of samples."""
        rows, columns = (1.0, 1.0) if self.shown is None else self.shown.shape
        return int(np.ceil(rows)), int(np.ceil(columns))

    def frame(self) -> QRectF:
        """Where the whole picture would lie at the scale that is looked at."""
        if self.shown is None:
            return QRectF()
        rows, columns = self.shown.shape
        room = QRectF(self.rect()).adjusted(MARGIN, MARGIN, -MARGIN, -MARGIN)
        unit = min(room.width() / columns, room.height() / rows) * self.lens.scale
        wide, tall = unit * columns, unit * rows
        middle = room.center()
        left = middle.x() - self.lens.centre.x() * wide
        top = middle.y() - self.lens.centre.y() * tall
        if wide <= room.width():
            left = middle.x() - wide / 2.0
        if tall <= room.height():
            top = middle.y() - tall / 2.0
        return QRectF(left, top, wide, tall)

    def unit(self) -> float:
        """Points of the screen that a pixel takes."""
        return 1.0 if self.shown is None else self.frame().width() / self.shown.shape[1]

    def cell_at(self, at: QPointF) -> tuple[int, int] | None:
        """Column and row under a point, None beside the picture."""
        place = self._in_pixels(at)
        if self.shown is None:
            return None
        column, row = int(np.floor(place.x())), int(np.floor(place.y()))
        rows, columns = self.cells
        return (column, row) if 0 <= column < columns and 0 <= row < rows else None

    def point_of(self, column: float, row: float) -> QPointF:
        """Where the middle of a pixel is on screen."""
        frame, unit = self.frame(), self.unit()
        return QPointF(frame.left() + (column + 0.5) * unit, frame.top() + (row + 0.5) * unit)

    def _in_pixels(self, at: QPointF) -> QPointF:
        frame, unit = self.frame(), self.unit() or 1.0
        return QPointF((at.x() - frame.left()) / unit, (at.y() - frame.top()) / unit)

    # Painting

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        """Pixels, grid when near, pick, cursor, what is being drawn, scale bar."""
        painter = QPainter(self)
        if self.shown is None:
            return
        frame, unit = self.frame(), self.unit()
        room = QRectF(self.rect()).adjusted(MARGIN, MARGIN, -MARGIN, -MARGIN)
        painter.setClipRect(room)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, self.smooth)
        painter.drawImage(*self._part(frame, room))
        if unit >= NEAR and not self.smooth:
            paint_grid(painter, frame, unit, room)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        paint_outline(painter, self._outline, frame, unit)
        layout = self.shown.layout
        if self.cursor_cell is not None:
            column, row = self.cursor_cell
            step = int(layout.pixel) if layout.unit == "px" else 1  # every so-manieth pixel is a sample
            words = f"x {column * step}, y {row * step}"
            paint_cursor(painter, self.point_of(column, row), words, room)
        paint_drawn(painter, self._drawn, self.tool, unit)
        paint_bar(painter, layout, unit, room)
        painter.setClipping(False)
        if self.hasFocus():
            painter.setPen(QPen(QColor(colours.ACCENT), 1.0))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(QRectF(self.rect()).adjusted(1.5, 1.5, -1.5, -1.5))

    # Pointer and keys

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
            self._press, self._drawn = event.position().toPoint(), [event.position()]

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
        if self._press is not None:
            self._drawn.append(at)
            self.update()
        self.hovered.emit(self.cell_at(at))

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """What was drawn is picked; a click picks the pixel, or what is like it."""
        if event.button() == Qt.MouseButton.MiddleButton:
            self._pan = None
            return
        if self._press is None or self.shown is None or event.button() != Qt.MouseButton.LeftButton:
            return
        drawn, self._drawn = [*self._drawn, event.position()], []
        far = (event.position() - QPointF(self._press)).manhattanLength() > 4
        self._press = None
        inside = self._inside(drawn, far)
        if inside is not None:
            self.picked.emit(inside, event.modifiers())
        self.update()

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        """All of the picture."""
        self._press = None
        self.whole()

    def leaveEvent(self, event: object) -> None:
        """Nothing is under the pointer."""
        self.hovered.emit(None)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Arrows move the cursor, Space picks, + and − change the scale, 0 shows all."""
        step = WAYS.get(Qt.Key(event.key()))
        if self.shown is None:
            super().keyPressEvent(event)
        elif step is not None:
            rows, columns = self.cells
            column, row = self.cursor_cell or (columns // 2, rows // 2)
            fast = 10 if event.modifiers() & Qt.KeyboardModifier.ShiftModifier else 1
            column = min(max(column + fast * step[0], 0), columns - 1)
            row = min(max(row + fast * step[1], 0), rows - 1)
            self.hovered.emit((column, row))
        elif event.key() == Qt.Key.Key_Space and self.cursor_cell is not None:
            self.picked.emit(self._one(*self.cursor_cell), event.modifiers())
        elif event.key() in (Qt.Key.Key_Plus, Qt.Key.Key_Equal, Qt.Key.Key_Minus):
            way = 1.25 if event.key() != Qt.Key.Key_Minus else 0.8
            self.lens.change(self.lens.scale * way, self.lens.centre)
        elif event.key() == Qt.Key.Key_0:
            self.whole()
        else:
            super().keyPressEvent(event)

    def _one(self, column: int, row: int) -> Booleans:
        assert self.shown is not None
        found = np.zeros(self.cells, dtype=bool)
        found[row, column] = True
        return found

    def _inside(self, drawn: list[QPointF], far: bool) -> Booleans | None:
        """Which cells a drag or click picks; None beside the picture."""
        assert self.shown is not None
        places = [self._in_pixels(at) for at in drawn]
        points = np.array([(place.x(), place.y()) for place in places])
        shape = self.cells
        cell = self.cell_at(drawn[-1])
        if self.tool == "flood" and cell is not None and self.shown.values is not None:
            return like_neighbours(self.shown.values, cell)
        if self.tool == "brush":
            return inside_stroke(points, shape)
        if not far:
            return None if cell is None else self._one(*cell)
        if self.tool == "box":
            low, high = points[[0, -1]].min(axis=0), points[[0, -1]].max(axis=0)
            points = np.array([low, (high[0], low[1]), high, (low[0], high[1])])
        return inside_line(points, shape)
