"""An axis in our manner: a hairline, short ticks, figures or names; names without room stand at an angle."""

from __future__ import annotations

import math
from typing import Any

import pyqtgraph as pg
from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QFontMetrics, QPainter

from scutcher.charts import colours
from scutcher.charts.words import with_minus
from scutcher.core.words import localised
from scutcher.desk.painting.setup import pen, tick_font

TALL = 19
"""Pixels of an axis with figures, or with names that stand level."""

SLANT = 38.0
"""Degrees at which names stand that have no room beside each other."""

LONGEST, NARROWEST, AIR = 74, 13, 8
"""Pixels of a slanted name at most, between two of them at least, and between level ones."""


class QuietAxis(pg.AxisItem):  # type: ignore[misc]
    """Its title is a widget beside the plot."""

    names: tuple[str, ...] = ()
    slanted = False

    def __init__(self, orientation: str) -> None:
        super().__init__(orientation, pen=pen(colours.HAIRLINE), textPen=pen(colours.MUTED))
        self.setStyle(
            tickLength=-4,
            tickTextOffset=4,
            maxTickLevel=1,
            hideOverlappingLabels=True,
            autoExpandTextSpace=False,
            autoReduceTextSpace=False,
        )
        self.setTickFont(tick_font())
        self.enableAutoSIPrefix(False)
        self._slot = 1.0

    def tickValues(self, low: float, high: float, size: float) -> list[tuple[float, list[float]]]:
        """Where the ticks are: round figures, or every place whose name has room."""
        if not self.names:
            found: list[tuple[float, list[float]]] = super().tickValues(low, high, size)
            return found
        low, high = sorted((low, high))  # of an axis that runs downwards too
        first, last = max(math.ceil(low), 1), min(math.floor(high), len(self.names))
        self._slot = size / max(high - low, 1e-9)
        upright = self.slanted or self.orientation == "left"
        every = max(math.ceil(NARROWEST / self._slot), 1) if upright else 1
        return [(1.0, [float(place) for place in range(first, last + 1, every)])]

    def tickStrings(self, values: list[float], scale: float, spacing: float) -> list[str]:
        """Figures with a true minus sign, or names, shortened to their room."""
        if not self.names:
            return [with_minus(localised(text)) for text in super().tickStrings(values, scale, spacing)]
        room = LONGEST if self.slanted else max(int(self._slot) - 4, 20)
        if self.orientation == "left":
            room = max(int(self.width()) - 16, 20)
        metrics = QFontMetrics(tick_font())
        return [short_name(self.names[int(value) - 1], metrics, room) for value in values]

    def show_names(self, names: tuple[str, ...]) -> None:
        """Names at 1…p in place of figures."""
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

    def drawPicture(self, painter: QPainter, line: Any, ticks: Any, texts: Any) -> None:
        """As the library's; slanted names end at their tick."""
        slanted = self.slanted and bool(self.names)
        super().drawPicture(painter, line, ticks, [] if slanted else texts)
        if not slanted:
            return
        painter.setFont(tick_font())
        painter.setPen(self.textPen())
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setClipping(False)
        flags = Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignTop
        for rect, _, text in texts:
            painter.save()
            painter.translate(QPointF(rect.center().x() + 4.0, rect.top()))
            painter.rotate(-SLANT)
            painter.drawText(QRectF(-LONGEST - 4.0, 0.0, LONGEST + 4.0, 14.0), flags, text)
            painter.restore()


def short_name(name: str, metrics: QFontMetrics, room: int) -> str:
    """A name that fits: without its unit, then without its middle, where there is no room for all of it."""
    if metrics.horizontalAdvance(name) <= room:
        return name
    bare = name.partition(" / ")[0]
    return metrics.elidedText(bare, Qt.TextElideMode.ElideMiddle, room)
