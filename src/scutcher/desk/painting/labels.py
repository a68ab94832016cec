"""Words at places of a plot, apart from each other and inside it."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import replace

from PySide6.QtCore import QLineF, QPointF, QRectF
from PySide6.QtGui import QColor, QFont, QFontMetricsF, QPainter, QPainterPath

from scutcher.charts import colours
from scutcher.charts.description import NAME_FAR, NAME_LINES
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


def placed(labels: Sequence[Label], to: ToPixels, area: QRectF) -> Iterator[Label]:
    """The words where they cover no others; last those that yield, of each place those that come first.

    Parameters
    ----------
    area : where the plot is, in pixels; words of what is seen of it stand inside
    """
    taken: list[QRectF] = []
    for label in sorted(labels, key=lambda label: label.yields):
        if not area.contains(to.place(label.x, label.y)):
            yield label  # nothing is pulled into the plot
            continue
        box = label.box(to)
        off = _room_for(label, box, area, taken)
        if off is not None:
            taken.append(box.translated(*off))
            yield replace(label, off=off) if any(off) else label


def _room_for(label: Label, box: QRectF, area: QRectF, taken: list[QRectF]) -> tuple[float, float] | None:
    """By how many pixels words are moved so that they cover no others: sideways into the plot, and by lines.

    None for those that yield to others; those that do not stay where there is no room at all.
    """
    right = max(area.left() - box.left(), 0.0) + min(area.right() - box.right(), 0.0)
    here = box.translated(right, 0.0)
    if label.yields:
        return None if any(here.intersects(other) for other in taken) else (right, 0.0)
    bare, others = _bare(here), [_bare(other) for other in taken]
    for line in NAME_LINES:
        down = line * bare.height()
        inside = here.top() + down >= area.top() and here.bottom() + down <= area.bottom()
        if inside and not any(bare.translated(0.0, down).intersects(other) for other in others):
            return right, down
    return right, 0.0


def _bare(box: QRectF) -> QRectF:
    """Words without the air around them."""
    return box.adjusted(AROUND, AROUND, -AROUND, -AROUND)
