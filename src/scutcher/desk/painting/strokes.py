"""What is drawn over a plot in data units: lines, outlines, rules, bars, whiskers, signs and words."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import replace

import numpy as np
from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import (
    QBrush,
    QColor,
    QFont,
    QFontMetricsF,
    QPainter,
    QPainterPath,
    QPen,
    QPolygonF,
    QTransform,
)

from scutcher.charts import colours
from scutcher.charts.description import NAME_FAR, NAME_LINES
from scutcher.core.arrays import Floats
from scutcher.core.frozen import frozen
from scutcher.desk.painting.plotting_library import pg
from scutcher.desk.painting.setup import TICK_FONT_PX, pen, tick_font

BEYOND = 1e9
"""Pixels beyond which a place is drawn at that distance, so that no number overflows."""

AROUND = 4.0
"""Pixels of air around words."""

RIM = 3.5
"""Pixels of paper under the edges of letters that lie over lines and marks."""


class ToPixels:
    """Data to pixels of what is painted on."""

    def __init__(self, transform: QTransform, wide: float, tall: float) -> None:
        self._across, self._left = transform.m11(), transform.dx()
        self._down, self._top = transform.m22(), transform.dy()
        self.wide, self.tall = wide, tall

    def x(self, values: Floats) -> Floats:
        """Places along the level axis, any shape."""
        return np.clip(values * self._across + self._left, -BEYOND, BEYOND)

    def y(self, values: Floats) -> Floats:
        """Places along the upright axis, any shape."""
        return np.clip(values * self._down + self._top, -BEYOND, BEYOND)

    def place(self, x: float, y: float) -> QPointF:
        """One place."""
        return QPointF(float(self.x(np.array([x]))[0]), float(self.y(np.array([y]))[0]))


@frozen(eq=False)
class Line:
    """A line through x and y, (m,), broken where either is not known."""

    x: Floats
    y: Floats
    pen: QPen

    def draw(self, painter: QPainter, to: ToPixels) -> None:
        painter.setPen(self.pen)
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawPath(pg.arrayToQPath(to.x(self.x), to.y(self.y), connect="finite"))


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
    """Bars from zero to heights, (m,), over x, (m,); one width, a colour for each or for all."""

    x: Floats
    heights: Floats
    width: float
    colours: tuple[str, ...]

    def draw(self, painter: QPainter, to: ToPixels) -> None:
        painter.setPen(Qt.PenStyle.NoPen)
        left, right = to.x(self.x - self.width / 2.0), to.x(self.x + self.width / 2.0)
        top, bottom = to.y(self.heights), to.y(np.zeros(len(self.x)))
        of_each = self.colours if len(self.colours) > 1 else self.colours * len(self.x)
        for place, colour in enumerate(of_each):
            corner = QPointF(left[place], top[place])
            box = QRectF(corner, QPointF(right[place], bottom[place])).normalized()
            painter.fillRect(box, QColor(colour))


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
        x, low, high = to.x(self.x[known]), to.y(self.low[known]), to.y(self.high[known])
        half = (to.x(self.x[known] + self.wide / 2.0) - x) if self.wide else np.zeros(len(x))
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


@frozen(eq=False)
class Label:
    """Words at a place; `anchor` says which place of them stands there, (0, 0) the upper left.

    Where they would lie over others they stand lower or higher, and those that yield are left out. Those
    with a rim can be read on lines and marks. `off`: pixels to the right and down that they were moved by.
    """

    text: str
    x: float
    y: float
    colour: str
    anchor: tuple[float, float]
    pixels: int = TICK_FONT_PX
    yields: bool = False
    rim: bool = False
    off: tuple[float, float] = (0.0, 0.0)

    @property
    def font(self) -> QFont:
        """Of figures beside an axis, in the size of these words."""
        font = QFont(tick_font())
        font.setPixelSize(self.pixels)
        return font

    def box(self, to: ToPixels) -> QRectF:
        """The words with the air around them, in pixels."""
        room = QFontMetricsF(self.font)
        wide, tall = room.horizontalAdvance(self.text) + 2.0 * AROUND, room.height() + 2.0 * AROUND
        corner = to.place(self.x, self.y) + QPointF(*self.off)
        return QRectF(corner.x() - self.anchor[0] * wide, corner.y() - self.anchor[1] * tall, wide, tall)

    def draw(self, painter: QPainter, to: ToPixels) -> None:
        font, words = self.font, _bare(self.box(to))
        start = words.topLeft() + QPointF(0.0, QFontMetricsF(font).ascent())
        place = to.place(self.x, self.y)
        if abs(self.off[1]) > NAME_FAR * words.height():  # a line leads to words that stand far off
            painter.setPen(pen(colours.MUTED, 0.8))
            end = QPointF(
                min(max(place.x(), words.left()), words.right()),
                words.top() if self.off[1] > 0.0 else words.bottom(),
            )
            painter.drawLine(QLineF(place, end))
        if self.rim:
            letters = QPainterPath()
            letters.addText(start, font, self.text)
            painter.strokePath(letters, pen(colours.PAPER, RIM))
        painter.setFont(font)
        painter.setPen(QColor(self.colour))
        painter.drawText(start, self.text)


def with_room(strokes: Sequence[Stroke], to: ToPixels, area: QRectF) -> Iterator[Stroke]:
    """The strokes, over them the words, and last those that yield, of each place those that come first.

    Parameters
    ----------
    area : where the plot is, in pixels; words of what is seen of it stand inside
    """
    words = [one for one in strokes if isinstance(one, Label)]
    yield from (one for one in strokes if not isinstance(one, Label))
    taken: list[QRectF] = []
    for label in sorted(words, key=lambda label: label.yields):
        found = _found_room(label, to, area, taken)
        if found is not None:
            taken.append(found.box(to))
            yield found


def _found_room(label: Label, to: ToPixels, area: QRectF, taken: list[QRectF]) -> Label | None:
    """The words where they cover no others: at their place, or some lines below or above it.

    None of those that yield; those that do not stand at their place where there is no room at all.
    """
    places = _places(label, to, area)
    if label.yields:
        return None if any(places[0].box(to).intersects(other) for other in taken) else places[0]
    bare = [_bare(other) for other in taken]
    free = (one for one in places if not any(_bare(one.box(to)).intersects(other) for other in bare))
    return next(free, places[0])


def _places(label: Label, to: ToPixels, area: QRectF) -> list[Label]:
    """Where words may stand inside the plot, the best place first; those of what is not seen as they are."""
    if not area.contains(to.place(label.x, label.y)):
        return [label]
    box = label.box(to)
    right = max(area.left() - box.left(), 0.0) + min(area.right() - box.right(), 0.0)
    lines = [line * _bare(box).height() for line in NAME_LINES]
    tall = [down for down in lines if box.top() + down >= area.top() and box.bottom() + down <= area.bottom()]
    return [replace(label, off=(right, down)) for down in tall or [0.0]]


def _bare(box: QRectF) -> QRectF:
    """Words without the air around them."""
    return box.adjusted(AROUND, AROUND, -AROUND, -AROUND)


Stroke = Line | Outline | Leader | Across | Bars | Whiskers | Signs | Label
