"""Words at places of a plot, apart from each other and inside it."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import replace

from PySide6.QtCore import QLineF, QPointF, QRectF
from PySide6.QtGui import QColor, QFont, QFontMetricsF, QPainter, QPainterPath

from scutcher.charts import colours
from scutcher.charts.name_places import FAR, Box, moves
from scutcher.core.frozen import frozen
from scutcher.desk.painting.setup import TICK_FONT_PX, pen, tick_font
from scutcher.desk.painting.to_pixels import ToPixels

AROUND = 4.0
"""Pixels of air around words."""

RIM = 3.5
"""Pixels of paper under the edges of letters that lie over lines and marks."""


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
        if abs(self.off[1]) > FAR * words.height():  # a line leads to words that stand far off
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


def placed(labels: Sequence[Label], to: ToPixels, area: QRectF) -> Iterator[Label]:
    """The words where they cover no others.

    Parameters
    ----------
    area : where the plot is, in pixels; words of what is seen of it stand inside
    """
    seen = [label for label in labels if area.contains(to.place(label.x, label.y))]
    boxes = [_corners(_bare(label.box(to))) for label in seen]
    offs = moves(boxes, [label.yields for label in seen], _corners(area), AROUND)
    yield from (label for label in labels if label not in seen)  # nothing is pulled into the plot
    for label, off in zip(seen, offs, strict=True):
        if off is not None:
            yield replace(label, off=off) if any(off) else label


def _corners(box: QRectF) -> Box:
    return box.left(), box.top(), box.right(), box.bottom()


def _bare(box: QRectF) -> QRectF:
    """Words without the air around them."""
    return box.adjusted(AROUND, AROUND, -AROUND, -AROUND)
