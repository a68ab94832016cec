"""An axis in our manner: a hairline, short ticks, figures or names; names without room stand at an angle."""

from __future__ import annotations

import math
from functools import cache, lru_cache
from typing import Any

from PySide6.QtCore import QLineF, QPointF, QRectF, Qt
from PySide6.QtGui import QFontMetrics, QFontMetricsF, QPainter, QPen

from scutcher.charts import colours, palettes
from scutcher.charts.words import with_minus
from scutcher.core.frozen import frozen
from scutcher.core.words import localised
from scutcher.desk.guard import guarded
from scutcher.desk.last_few import LastFew
from scutcher.desk.painting.plotting_library import pg
from scutcher.desk.painting.setup import pen, tick_font

TALL = 19
"""Pixels of an axis with figures, or with names that stand level."""

SLANT = 38.0
"""Degrees at which names stand that have no room beside each other."""

LONGEST, APART, AIR = 74, 20, 8
"""Pixels of a slanted name at most, between two of them at least, and between level ones."""

COMB = 4
"""Pixels from one tick to the next at least."""

NARROWEST = 13
"""Pixels from one name beside an upright axis to the next at least."""

TICK, OFF, HIGH = 4.0, 4.0, 10.0
"""Pixels of a tick, from the axis to a label, and of a label's height."""

CLOSEST = 9.0
"""Pixels from one figure beside an upright axis to the next at least: closer ones would cover each other."""

FULL = ((1, 0.8), (2, 0.6), (4, 0.4), (6, 0.2))
"""With so many labels of round figures, the share of the axis up to which those between them are written."""


REMEMBERED = 6
"""Looks of an axis that are kept, the last ones."""


@frozen(eq=False)
class Drawn:
    """What an axis looks like: lines of each pen, words and where they begin, and the room they have."""

    lines: list[tuple[QPen, list[QLineF]]]
    words: list[tuple[QPointF, str]]
    slanted: bool
    room: QRectF


class QuietAxis(pg.AxisItem):  # type: ignore[misc]
    """Its title is a widget beside the plot."""

    names: tuple[str, ...] = ()
    slanted = False
    picture: Drawn | None

    def __init__(self, orientation: str) -> None:
        super().__init__(orientation, pen=pen(colours.HAIRLINE), textPen=pen(colours.MUTED))
        self.setStyle(
            tickLength=-int(TICK),
            maxTickLevel=1,
            hideOverlappingLabels=True,
            autoExpandTextSpace=False,
            autoReduceTextSpace=False,
        )
        self.setTickFont(tick_font())
        self.enableAutoSIPrefix(False)
        self._slot = 1.0
        self._before: LastFew[Drawn] = LastFew(REMEMBERED)

    @property
    def upright(self) -> bool:
        """Whether it stands at the left; else it lies at the bottom."""
        return bool(self.orientation == "left")

    def tickValues(self, low: float, high: float, size: float) -> list[tuple[float, list[float]]]:
        """Where the ticks are: round figures, or every place whose name has room."""
        low, high = sorted((low, high))  # of an axis that runs downwards too
        if not self.names:
            return round_ticks(low, high, [spacing for spacing, _ in self.tickSpacing(low, high, size)])
        first, last = max(math.ceil(low), 1), min(math.floor(high), len(self.names))
        self._slot = size / max(high - low, 1e-9)
        least = NARROWEST if self.upright else APART if self.slanted else COMB
        every = max(math.ceil(least / self._slot), 1)
        return [(1.0, [float(place) for place in range(first, last + 1, every)])]

    def tickStrings(self, values: list[float], scale: float, spacing: float) -> list[str]:
        """Figures with a true minus sign, or names, shortened to their room."""
        if not self.names:
            return [with_minus(localised(text)) for text in super().tickStrings(values, scale, spacing)]
        room = LONGEST if self.slanted else max(int(self._slot) - 4, 20)
        if self.upright:
            room = max(int(self.width()) - 16, 20)
        metrics = QFontMetrics(tick_font())
        return [short_name(self.names[int(value) - 1], metrics, room) for value in values]

    def show_names(self, names: tuple[str, ...]) -> None:
        """Names at 1…p in place of figures."""
        if names == self.names:
            return
        self.names = names
        self.picture = None
        self._fit()

    def resizeEvent(self, event: Any = None) -> None:
        """Names may have room now, or none any more."""
        super().resizeEvent(event)
        self._fit()

    def _fit(self) -> None:
        """Level where there is room for all names beside each other, else slanted, and taller."""
        if self.orientation != "bottom" or not self.style["showValues"]:
            return
        metrics = QFontMetrics(tick_font())
        widths = [metrics.horizontalAdvance(name) for name in self.names[:200]]
        room = self.geometry().width() / max(len(self.names), 1)
        self.slanted = bool(widths) and max(widths) + AIR > room
        self.setStyle(hideOverlappingLabels=not self.names)
        tall = TALL
        if self.slanted:
            tall += int(min(max(widths), LONGEST) * math.sin(math.radians(SLANT)))
        if self.fixedHeight != tall:
            self.setHeight(tall)

    def setRange(self, low: float, high: float) -> None:
        """Drawn anew only where the range is another."""
        if self.picture is None or [low, high] != self.range:
            super().setRange(low, high)

    def _updateLabel(self) -> None:
        """Without the library's own title, which nobody sees: it would be set four times."""
        self._adjustSize()
        self.picture = None
        self.update()

    def updateAutoSIPrefix(self) -> None:
        """Nothing: without a title there is no prefix either, and the library would lay out an empty one."""

    @guarded
    def paint(self, painter: QPainter, option: object, widget: object = None) -> None:
        """The hairline, its ticks and their words; kept until the range, the room or the names change."""
        drawn = self.picture = self.picture or self._seen_before()
        painter.save()
        for ink, lines in drawn.lines:
            painter.setPen(ink)
            painter.drawLines(lines)
        painter.setPen(self.textPen())
        painter.setFont(tick_font())
        if drawn.slanted:
            _draw_slanted(painter, drawn.words)
        else:
            painter.setClipRect(drawn.room)
            for place, words in drawn.words:
                painter.drawText(place, words)
        painter.restore()

    def _seen_before(self) -> Drawn:
        """As it was drawn for the same range and room: a treatment is switched off and on again."""
        box, room = self.geometry(), self.boundingRect()
        of = self.slanted, self.names, self.style["showValues"], id(palettes.now()), localised("0.5")
        key = (*self.range, *box.getRect(), *room.getRect(), *of)
        return self._before.get(key, self._drawn)

    def _drawn(self) -> Drawn:
        """Where everything stands."""
        box, (low, high) = self.mapRectFromParent(self.geometry()), self.range
        length = box.height() if self.upright else box.width()
        room = self.boundingRect()
        line = (
            QLineF(box.right() - 1.0, box.top() - 1.0, box.right() - 1.0, box.bottom() + 1.0)
            if self.upright
            else QLineF(box.left() - 1.0, box.top() - 1.0, box.right() + 1.0, box.top() - 1.0)
        )
        lines = [(self.pen(), [line])]
        if length <= 0.0 or low == high:
            return Drawn(lines, [], False, room)
        start, step = (box.bottom(), -length) if self.upright else (box.left(), length)
        labels: list[tuple[float, str]] = []
        levels = self.tickValues(low, high, length)
        for level, (spacing, values) in enumerate(levels):
            seen = [value for value in values if min(low, high) <= value <= max(low, high)]
            places = [start + step * (value - low) / (high - low) for value in seen]
            lines.append(self._ticks(box, level, places))
            if self.style["showValues"]:
                words = self.tickStrings(seen, self.scale, spacing)
                labels += self._with_room(labels, list(zip(places, words, strict=True)), length)
        if self.slanted and self.names:
            return Drawn(
                lines, [(QPointF(at + 4.0, box.top() + OFF), name) for at, name in labels], True, room
            )
        return Drawn(lines, self._placed(box, room, labels), False, room)

    def _ticks(self, box: QRectF, level: int, places: list[float]) -> tuple[QPen, list[QLineF]]:
        """Inwards; those between the round ones shorter and paler."""
        long, ink = TICK / (0.5 * level + 1.0), QPen(self.tickPen())
        colour = ink.color()
        colour.setAlpha(255 // (level + 1))
        ink.setColor(colour)
        right, top = box.right(), box.top()
        if self.upright:
            return ink, [QLineF(right, at, right + long, at) for at in places]
        return ink, [QLineF(at, top, at, top - long) for at in places]

    def _with_room(
        self, before: list[tuple[float, str]], more: list[tuple[float, str]], length: float
    ) -> list[tuple[float, str]]:
        """The labels of a level; none where the axis would be too full with them."""
        every = [words for _, words in before + more]
        filled = len(every) * HIGH if self.upright else sum(_width(words) for words in every)
        crowded = any(len(before) >= count and filled >= share * length for count, share in FULL)
        if before and crowded:
            return []
        kept: list[tuple[float, str]] = []
        for at, words in more:  # on a very short axis even the roundest would cover each other
            if not self.upright or all(abs(at - other) >= CLOSEST for other, _ in before + kept):
                kept.append((at, words))
        return kept

    def _placed(
        self, box: QRectF, room: QRectF, labels: list[tuple[float, str]]
    ) -> list[tuple[QPointF, str]]:
        """Where each label begins, on the line that it stands on; none that would be cut."""
        below, found = _baseline(), []
        for at, words in labels:
            wide = _width(words)
            left = box.right() - OFF - wide if self.upright else at - wide / 2.0
            top = at - HIGH / 2.0 if self.upright else box.top() + OFF
            if room.contains(QRectF(left, top, wide, HIGH)):
                found.append((QPointF(left, top + below), words))
        return found


def _draw_slanted(painter: QPainter, labels: list[tuple[QPointF, str]]) -> None:
    """Names that end at their tick."""
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    flags = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignTop
    for place, words in labels:
        painter.save()
        painter.translate(place)
        painter.rotate(-SLANT)
        painter.drawText(QRectF(-LONGEST - 4.0, 0.0, LONGEST + 4.0, 14.0), flags, words)
        painter.restore()


def round_ticks(low: float, high: float, spacings: list[float]) -> list[tuple[float, list[float]]]:
    """The multiples of each spacing from low to high, without those of the spacings before."""
    found: list[tuple[float, list[float]]] = []
    seen: list[float] = []
    for spacing in spacings:
        first, last = math.ceil(low / spacing), math.floor(high / spacing)
        near = spacing / 100.0
        more = [place * spacing for place in range(first, last + 1)]
        more = [value for value in more if all(abs(value - other) > near for other in seen)]
        seen += more
        found.append((spacing, more))
    return found


@cache
def _baseline() -> float:
    """Pixels from the top of a label to the line that its letters stand on."""
    metrics = QFontMetricsF(tick_font())
    return (HIGH - metrics.height()) / 2.0 + metrics.ascent()


@lru_cache(4096)
def _width(words: str) -> float:
    """Pixels of a label."""
    return QFontMetricsF(tick_font()).horizontalAdvance(words)


def short_name(name: str, metrics: QFontMetrics, room: int) -> str:
    """A name that fits: without its unit, then without its middle, where there is no room for all of it."""
    if metrics.horizontalAdvance(name) <= room:
        return name
    bare = name.partition(" / ")[0]
    return metrics.elidedText(bare, Qt.TextElideMode.ElideMiddle, room)
