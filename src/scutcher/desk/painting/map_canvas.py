"""A map on screen: pixels, what is picked in outline, what is being drawn, the cursor, a scale bar."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import (
    QColor,
    QFocusEvent,
    QImage,
    QPainter,
    QPainterPath,
    QPaintEvent,
    QPen,
    QPolygonF,
    QTransform,
)
from PySide6.QtWidgets import QWidget

from scutcher.charts import colours
from scutcher.charts.description import Chart
from scutcher.desk.guard import guarded
from scutcher.desk.painting.area import BY_KEYS
from scutcher.desk.painting.map_hand import MapHand
from scutcher.desk.painting.map_marks import paint_bar, paint_cursor, paint_drawn, paint_grid, paint_outline
from scutcher.desk.painting.map_shown import Lens, Outline, Shown

NEAR = 9.0
"""Points of the screen that a pixel takes before a grid is drawn between them."""

MARGIN = 6


class MapCanvas(QWidget):
    """Paints, and tells which cell lies where; knows nothing of hands but what they have drawn."""

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
        self.hand = MapHand()
        self.cursor_cell: tuple[int, int] | None = None
        self._image: tuple[tuple[int, ...], QImage] | None = None
        self._outline = QPainterPath()
        self.pointer: QPointF | None = None
        self._by_keys = False

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

    def _part(self, seen: QRectF, scale: float) -> tuple[QRectF, QImage]:
        """The part of the picture that is seen, no finer than the screen; and where it lies, in pixels."""
        assert self.shown is not None
        ends = []
        for low, high, size, count in (
            (seen.top(), seen.bottom(), self.shown.shape[0], self.shown.pixels[0]),
            (seen.left(), seen.right(), self.shown.shape[1], self.shown.pixels[1]),
        ):
            unit = size / count
            step = max(1, int(1.0 / (unit * scale)))
            first = max(0, int(low / unit)) // step * step
            last = min(count, int(high / unit) + 1 + step)
            ends.append((first, last, step, first * unit, unit))
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
        rows, columns = self.lens.laid(*self.shown.shape)
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
        return 1.0 if self.shown is None else self.frame().width() / self.lens.laid(*self.shown.shape)[1]

    def to_screen(self) -> QTransform:
        """From pixels of the map to points of the screen."""
        if self.shown is None:
            return QTransform()
        frame, unit = self.frame(), self.unit()
        laid = QTransform(unit, 0.0, 0.0, unit, frame.left(), frame.top())
        return self.lens.orientation(*self.shown.shape) * laid

    def cell_at(self, at: QPointF) -> tuple[int, int] | None:
        """Column and row under a point, None beside the picture."""
        place = self.in_pixels(at)
        if self.shown is None:
            return None
        column, row = int(np.floor(place.x())), int(np.floor(place.y()))
        rows, columns = self.cells
        return (column, row) if 0 <= column < columns and 0 <= row < rows else None

    def point_of(self, column: float, row: float) -> QPointF:
        """Where the middle of a pixel is on screen."""
        return self.to_screen().map(QPointF(column + 0.5, row + 0.5))

    def in_pixels(self, at: QPointF) -> QPointF:
        """A point of the screen in pixels of the map, whose first reaches from 0 to 1."""
        back, possible = self.to_screen().inverted()
        return back.map(at) if possible else QPointF()

    def _drawn(self) -> list[QPointF]:
        """What is being drawn, on screen; a polygon and what keys draw go on to the pointer or cursor."""
        there = self.to_screen()
        found = [there.map(QPointF(x, y)) for x, y in self.hand.points]
        if found and self.hand.by_keys and self.cursor_cell is not None:
            found.append(self.point_of(*self.cursor_cell))
        elif found and self.hand.tool == "polygon" and self.pointer is not None:
            found.append(self.pointer)
        return found

    # Painting

    def focusInEvent(self, event: QFocusEvent) -> None:
        """Show where the keys go, to who comes by keys."""
        super().focusInEvent(event)
        self._by_keys = event.reason() in BY_KEYS
        self.update()

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
        there = self.to_screen()
        painter.save()
        painter.setTransform(there, True)
        painter.drawImage(*self._part(there.inverted()[0].mapRect(room), unit))
        painter.restore()
        if unit >= NEAR and not self.smooth:
            paint_grid(painter, frame, unit, room)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        paint_outline(painter, self._outline, there)
        layout = self.shown.layout
        if self.cursor_cell is not None:
            column, row = self.cursor_cell
            step = int(layout.pixel) if layout.unit == "px" else 1  # every so-manieth pixel is a sample
            words = f"x {column * step}, y {row * step}"
            paint_cursor(painter, self.point_of(column, row), words, room)
        paint_drawn(painter, self._drawn(), self.hand.tool, unit)
        paint_bar(painter, layout, unit, room)
        painter.setClipping(False)
        if self.hasFocus() and self._by_keys:
            painter.setPen(QPen(QColor(colours.ACCENT), 1.0))
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.drawRect(QRectF(self.rect()).adjusted(1.5, 1.5, -1.5, -1.5))
