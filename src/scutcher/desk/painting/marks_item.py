"""Draws samples as marks: sprites made once for each shape, colour and size, put down pixel for pixel."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QImage, QPainter, QPen, QTransform
from PySide6.QtWidgets import QStyleOptionGraphicsItem, QWidget

from scutcher.charts import colours, palettes
from scutcher.charts.description import Marks
from scutcher.charts.emphasis import FADED, FRONT, HIDDEN
from scutcher.core.arrays import Floats, Integers, distinct
from scutcher.desk.guard import guarded
from scutcher.desk.painting.plotting_library import pg
from scutcher.desk.painting.sprites import put_rings, put_sprites

CROWD, GRAIN, COARSE = 20_000, 2, 3
"""More marks than this are drawn as a density, in cells of so many pixels; coarser ones where fewer do."""

WITHOUT_ALPHA = 0xFFFFFF

FEW = 12
"""Picked marks of a crowd that have a ring."""

ONE_BY_ONE = 100
"""Rings that are drawn each by itself; more are copies of one."""

RINGS, APART = 1_000, 4.0
"""More picked marks than this are drawn once for each so many pixels of the screen."""


class MarksItem(pg.GraphicsObject):  # type: ignore[misc]
    """The marks of a plane: faded ones behind, picked ones in front with a ring."""

    def __init__(self, size: float, hollow: bool = False, crowd: int = CROWD) -> None:
        super().__init__()
        self.size, self.hollow, self.crowd = size, hollow, crowd
        self.grain = GRAIN if crowd >= CROWD else COARSE
        self.ring_size = size * 1.9
        self._marks: Marks | None = None
        self._strength: Integers = np.empty(0, dtype=np.intp)
        self._bounds = QRectF()
        self._density: tuple[tuple[object, ...], QImage] | None = None
        self.hovered: int | None = None

    def show_marks(self, marks: Marks | None, strength: Integers) -> None:
        """Put other marks in, with an emphasis for each."""
        if marks is not self._marks:
            self.prepareGeometryChange()
            self._marks = marks
            self._bounds = _bounds(marks)
        self._strength, self._density = strength, None
        self.update()

    def hover(self, place: int | None) -> None:
        """Ring one mark lightly, or none."""
        if place != self.hovered:
            self.hovered = place
            self.update()

    def ringed(self) -> Integers:
        """The places of the marks that have a ring."""
        return np.flatnonzero(self._strength == FRONT)

    def boundingRect(self) -> QRectF:
        """The range of the marks in data units; rings and sprites reach over it by pixels."""
        return self._bounds

    @guarded
    def paint(
        self, painter: QPainter, option: QStyleOptionGraphicsItem, widget: QWidget | None = None
    ) -> None:
        """Put the sprites down, back to front."""
        if self._marks is None or not len(self._marks.x):
            return
        transform = painter.worldTransform()
        across = self._marks.x * transform.m11() + transform.dx()
        down = self._marks.y * transform.m22() + transform.dy()
        painter.save()
        painter.resetTransform()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        crowd, ringed = len(across) > self.crowd, self.ringed()
        if crowd:
            self._put_crowd(painter, transform, across, down)
            order = apart(across, down, ringed)
        else:
            order = np.argsort(self._strength, kind="stable")
        codes, strength = self._marks.codes[order], self._strength[order]
        put_sprites(painter, across[order], down[order], codes, strength, self.size, self.hollow)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.setPen(QPen(QColor(colours.INK), 1.5))
        radius = self.ring_size / 2.0
        rings = ringed[:0] if crowd and len(ringed) > FEW else apart(across, down, ringed)
        if len(rings) > ONE_BY_ONE:
            put_rings(painter, across[rings], down[rings], radius, colours.INK, 1.5)
            rings = rings[:0]
        for place in rings:
            painter.drawEllipse(QPointF(across[place], down[place]), radius, radius)
        if self.hovered is not None and self.hovered < len(across):
            painter.setPen(QPen(QColor(colours.MUTED), 1.0))
            painter.drawEllipse(QPointF(across[self.hovered], down[self.hovered]), radius, radius)
        painter.restore()

    def _put_crowd(
        self, painter: QPainter, transform: QTransform, across: np.ndarray, down: np.ndarray
    ) -> None:
        """Very many marks as a density, kept until they or the view change."""
        wide, tall = painter.device().width(), painter.device().height()
        place = transform.m11(), transform.dx(), transform.m22(), transform.dy()
        key = *place, wide, tall, palettes.now()
        if self._density is None or self._density[0] != key:
            self._density = key, self._crowded(wide, tall, across, down)
        image = self._density[1]
        painter.drawImage(QRectF(0, 0, image.width() * self.grain, image.height() * self.grain), image)

    def _crowded(self, wide: int, tall: int, across: np.ndarray, down: np.ndarray) -> QImage:
        """A pixel has its commonest class, darker where more lie."""
        assert self._marks is not None
        x, y = across.astype(int) // self.grain, down.astype(int) // self.grain
        columns, rows = wide // self.grain + 1, tall // self.grain + 1
        shown = np.flatnonzero((x >= 0) & (x < columns) & (y >= 0) & (y < rows) & (self._strength != HIDDEN))
        cells = y[shown] * columns + x[shown]
        total = np.bincount(cells, minlength=columns * rows)
        taken = np.flatnonzero(total)
        place = np.empty(len(total), dtype=np.intp)
        place[taken] = np.arange(len(taken))
        kinds = 2 * self._marks.codes[shown] + (self._strength[shown] != FADED)
        best, table = np.zeros(len(taken), dtype=np.intp), np.zeros(len(total), dtype=np.uint32)
        colour = np.zeros(len(taken), dtype=np.uint32)
        for kind in distinct(kinds).tolist():
            counts = np.bincount(place[cells[np.flatnonzero(kinds == kind)]], minlength=len(taken))
            own = colours.class_colour(kind // 2) if kind % 2 else colours.FADED
            np.copyto(colour, QColor(own).rgb() & WITHOUT_ALPHA, where=counts > best)
            np.maximum(best, counts, out=best)
        share = np.log1p(total[taken]) / np.log1p(max(int(total.max(initial=1)), 1))
        table[taken] = colour | (70 + 185 * share).astype(np.uint32) << 24
        return QImage(table.data, columns, rows, 4 * columns, QImage.Format.Format_ARGB32).copy()


def apart(across: Floats, down: Floats, places: Integers, size: float = APART, most: int = RINGS) -> Integers:
    """Of more marks than that the last in each cell of so many pixels: those under it would not be seen."""
    if len(places) <= most:
        return places
    cells = np.round(across[places] / size) + 1j * np.round(down[places] / size)
    _, last = np.unique(cells[::-1], return_index=True)
    return places[np.sort(len(places) - 1 - last)]


def _bounds(marks: Marks | None) -> QRectF:
    known = np.zeros(0, dtype=bool) if marks is None else np.isfinite(marks.x) & np.isfinite(marks.y)
    if marks is None or not known.any():  # none of them is drawn
        return QRectF()
    x, y = marks.x[known], marks.y[known]
    left, right, bottom, top = float(x.min()), float(x.max()), float(y.min()), float(y.max())
    # a little wider than the marks, so that a redraw reaches the sprites at the rim
    air_x, air_y = 0.2 * (right - left) + 1e-12, 0.2 * (top - bottom) + 1e-12
    return QRectF(left - air_x, bottom - air_y, right - left + 2 * air_x, top - bottom + 2 * air_y)
