"""What is drawn over a plot in data units: lines, outlines, rules, bars, whiskers, signs and words."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence

import numpy as np
from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QBrush, QColor, QPaintEngine, QPainter, QPen, QPolygonF

from scutcher.core.arrays import Floats
from scutcher.core.frozen import frozen
from scutcher.desk.painting.labels import Label, placed
from scutcher.desk.painting.plotting_library import pg
from scutcher.desk.painting.to_pixels import ToPixels

RUGGED = 2.0
"""Pixels up and down for one across, from which a line is drawn piece by piece."""

DENSE = 4.0
"""Points of a line to a column of pixels, above which only those are drawn that can be seen."""

CROWDED = 2.0
"""Bars to a column of pixels, from which one is drawn for all of them, and ranges, from which none is."""


@frozen(eq=False)
class Line:
    """A line through x and y, (m,), broken where either is not known."""

    x: Floats
    y: Floats
    pen: QPen

    def draw(self, painter: QPainter, to: ToPixels) -> None:
        painter.setPen(self.pen)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        x, y = to.x(self.x), to.y(self.y)
        if len(x) > DENSE * to.wide:
            x, y = _outermost(x, y)
        raster = painter.paintEngine().type() == QPaintEngine.Type.Raster
        if raster and self._hides_its_joints and is_rugged(x, y):
            _draw_pieces(painter, x, y)
        else:
            painter.drawPath(pg.arrayToQPath(x, y, connect="finite"))

    @property
    def _hides_its_joints(self) -> bool:
        """Whether its pieces may lie over each other."""
        solid = self.pen.style() == Qt.PenStyle.SolidLine and self.pen.capStyle() != Qt.PenCapStyle.FlatCap
        return solid and self.pen.widthF() > 1.0 and self.pen.color().alpha() == 255


def _outermost(x: Floats, y: Floats) -> tuple[Floats, Floats]:
    """Of a line of very many points, (m,), the first, lowest, highest and last in each column of pixels.

    Between them it is drawn as all of it would be. One that goes back and forth, or has gaps, stays as it is.

    References
    ----------
    Jugel et al., Proc. VLDB Endow. 7 (2014) 797–808.
    """
    steps = np.diff(x)
    if not ((steps >= 0.0).all() or (steps <= 0.0).all()) or not np.isfinite(y).all():
        return x, y
    column = np.floor(x)
    starts = np.flatnonzero(np.diff(column, prepend=np.nan) != 0.0)
    sizes = np.diff(np.append(starts, len(x)))
    own = np.repeat(np.arange(len(starts)), sizes)
    rising = np.lexsort((y, own))  # within each column
    ends = starts + sizes - 1
    kept = np.unique(np.concatenate([starts, ends, rising[starts], rising[ends]]))
    return x[kept], y[kept]


def is_rugged(x: Floats, y: Floats) -> bool:
    """Whether a line goes up and down so much that as one wide path it takes ten times as long.

    Parameters
    ----------
    x, y : (m,) float arrays
        Pixels.
    """
    if len(x) < 2:
        return False
    across, along = np.abs(np.diff(x)), np.abs(np.diff(y))
    return bool(np.nansum(along) > RUGGED * np.nansum(across))


def _draw_pieces(painter: QPainter, x: Floats, y: Floats) -> None:
    """Each piece of a line by itself; their ends reach over each other."""
    ends = np.column_stack([x[:-1], y[:-1], x[1:], y[1:]])
    ends = ends[np.isfinite(ends).all(axis=1)]
    pieces = pg.Qt.internals.PrimitiveArray(QLineF, 4)
    pieces.resize(len(ends))
    pieces.ndarray()[:] = ends
    painter.drawLines(*pieces.drawargs())


@frozen(eq=False)
class Outline:
    """A filled outline with corners x and y, (m,); corners that are not known are passed over.

    One of them that is not a number keeps the painter busy for more than a minute.
    """

    x: Floats
    y: Floats
    pen: QPen
    fill: QColor

    def draw(self, painter: QPainter, to: ToPixels) -> None:
        painter.setPen(self.pen)
        painter.setBrush(self.fill)
        x, y = to.x(self.x), to.y(self.y)
        known = np.isfinite(x) & np.isfinite(y)
        corners = zip(x[known].tolist(), y[known].tolist(), strict=True)
        painter.drawPolygon(QPolygonF([QPointF(*corner) for corner in corners]))


@frozen(eq=False)
class Leader:
    """A line from a place to so many pixels to the right of it and below it."""

    x: float
    y: float
    right: float
    below: float
    pen: QPen

    def draw(self, painter: QPainter, to: ToPixels) -> None:
        painter.setPen(self.pen)
        place = to.place(self.x, self.y)
        painter.drawLine(QLineF(place, place + QPointF(self.right, self.below)))


@frozen(eq=False)
class Across:
    """A rule across the whole plot, at a place of one axis."""

    at: float
    vertical: bool
    pen: QPen

    def draw(self, painter: QPainter, to: ToPixels) -> None:
        painter.setPen(self.pen)
        place = to.place(self.at, self.at)
        x, y = math.floor(place.x()) + 0.5, math.floor(place.y()) + 0.5  # on whole pixels: not smeared
        painter.drawLine(QLineF(x, 0.0, x, to.tall) if self.vertical else QLineF(0.0, y, to.wide, y))


@frozen(eq=False)
class Bars:
    """Bars from zero to heights, (m,), over x, (m,); one width, a colour for each or for all.

    Of so many series beside each other this is the one at a place; where bars are narrower than pixels, each
    has a column of pixels in turn.
    """

    x: Floats
    heights: Floats
    width: float
    colours: tuple[str, ...]
    place: int = 0
    series: int = 1

    def draw(self, painter: QPainter, to: ToPixels) -> None:
        painter.setPen(Qt.PenStyle.NoPen)
        left, right = to.x(self.x - self.width / 2.0), to.x(self.x + self.width / 2.0)
        ends = np.sort([to.y(self.heights), to.y(np.zeros(len(self.x)))], axis=0)
        inks = [QColor(colour) for colour in self.colours]
        seen = np.flatnonzero((np.maximum(left, right) >= 0.0) & (np.minimum(left, right) <= to.wide))
        if len(inks) == 1 and len(seen) * self.series > CROWDED * to.wide:
            middle = (left + right)[seen] / 2.0
            columns, top, bottom = _by_columns(middle / self.series, *ends[:, seen])
            columns = columns * self.series + self.place
            for at, high, low in zip(*(a.tolist() for a in (columns, top, bottom)), strict=True):
                painter.fillRect(QRectF(at, high, 1.0, low - high), inks[0])
            return
        for place in seen.tolist():
            corner = QPointF(left[place], ends[0, place])
            box = QRectF(corner, QPointF(right[place], ends[1, place])).normalized()
            painter.fillRect(box, inks[place if len(inks) > 1 else 0])


def _by_columns(across: Floats, top: Floats, bottom: Floats) -> tuple[Floats, Floats, Floats]:
    """Of many, (m,): the columns of pixels that have any, and how far up and down these reach."""
    column = np.floor(across)
    order = np.argsort(column, kind="stable")
    starts = np.flatnonzero(np.diff(column[order], prepend=-np.inf))
    highest, lowest = np.minimum.reduceat(top[order], starts), np.maximum.reduceat(bottom[order], starts)
    return column[order][starts], highest, lowest


@frozen(eq=False)
class Whiskers:
    """Upright ranges from low to high, (m,), at x, (m,), with ends so wide in data units."""

    x: Floats
    low: Floats
    high: Floats
    pen: QPen
    wide: float = 0.0

    def draw(self, painter: QPainter, to: ToPixels) -> None:
        painter.setPen(self.pen)
        known = np.isfinite(self.x) & np.isfinite(self.low) & np.isfinite(self.high)
        x, half = to.x(self.x), np.abs(to.x(self.x + self.wide / 2.0) - to.x(self.x))
        known &= (x + half >= 0.0) & (x - half <= to.wide)
        x, half, low, high = x[known], half[known], to.y(self.low[known]), to.y(self.high[known])
        if len(x) > CROWDED * to.wide:
            return  # they would hide what they belong to
        lines = []
        for at, one, other, reach in zip(*(a.tolist() for a in (x, low, high, half)), strict=True):
            lines.append(QLineF(at, one, at, other))
            if self.wide:
                lines += [QLineF(at - reach, end, at + reach, end) for end in (one, other)]
        painter.drawLines(lines)


@frozen(eq=False)
class Signs:
    """Signs of so many pixels at x and y, (m,): "circle", "square", "cross" or "down" (a triangle)."""

    x: Floats
    y: Floats
    sign: str
    size: float
    pen: QPen | None = None
    fill: str = ""

    def draw(self, painter: QPainter, to: ToPixels) -> None:
        painter.setPen(self.pen or QPen(Qt.PenStyle.NoPen))
        painter.setBrush(QBrush(QColor(self.fill)) if self.fill else QBrush(Qt.BrushStyle.NoBrush))
        known = np.isfinite(self.x) & np.isfinite(self.y)
        half = self.size / 2.0
        for x, y in zip(to.x(self.x[known]).tolist(), to.y(self.y[known]).tolist(), strict=True):
            if self.sign == "circle":
                painter.drawEllipse(QPointF(x, y), half, half)
            elif self.sign == "square":
                painter.drawRect(QRectF(x - half, y - half, self.size, self.size))
            elif self.sign == "down":
                corners = [QPointF(x - half, y - half), QPointF(x + half, y - half), QPointF(x, y + half)]
                painter.drawPolygon(QPolygonF(corners))
            else:
                reach = 0.8 * half
                painter.drawLine(QLineF(x - reach, y - reach, x + reach, y + reach))
                painter.drawLine(QLineF(x - reach, y + reach, x + reach, y - reach))


Stroke = Line | Outline | Leader | Across | Bars | Whiskers | Signs | Label


def with_room(strokes: Sequence[Stroke], to: ToPixels, area: QRectF) -> Iterator[Stroke]:
    """The strokes, and over them the words of them that have room in a plot's area in pixels."""
    yield from (one for one in strokes if not isinstance(one, Label))
    yield from placed([one for one in strokes if isinstance(one, Label)], to, area)
