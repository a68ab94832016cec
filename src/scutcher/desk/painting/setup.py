"""Options of the plotting library, set once; pens, fonts and axes in our manner."""

from __future__ import annotations

import math

import pyqtgraph as pg
from PySide6.QtCore import Qt
from PySide6.QtGui import QColor, QFont, QFontMetrics, QPen

from scutcher.charts import colours
from scutcher.charts.words import with_minus

pg.setConfigOptions(
    antialias=True,
    background=colours.PAPER,
    foreground=colours.MUTED,
    mouseRateLimit=-1,  # a lasso wants every place that the pointer was at
)

TICK_FONT_PX = 10
NARROWEST_NAME = 34  # pixels


def pen(colour: str, width: float = 1.0, dashes: bool = False) -> QPen:
    """A cosmetic pen."""
    made = QPen(QColor(colour))
    made.setWidthF(width)
    made.setCosmetic(True)
    made.setJoinStyle(Qt.PenJoinStyle.RoundJoin)
    if dashes:
        made.setDashPattern([4.0, 3.0])
    return made


def tick_font() -> QFont:
    """The face of the tick figures."""
    font = QFont("Inter")
    font.setPixelSize(TICK_FONT_PX)
    font.setFeature(QFont.Tag("tnum"), 1)
    return font


class QuietAxis(pg.AxisItem):  # type: ignore[misc]
    """An axis with a hairline, short ticks, figures only; its title is a widget beside the plot."""

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
        self.names: tuple[str, ...] = ()
        self._slot = 1.0

    def tickValues(self, low: float, high: float, size: float) -> list[tuple[float, list[float]]]:
        """Where the ticks are: round figures, or every place that has room for its name."""
        if not self.names:
            found: list[tuple[float, list[float]]] = super().tickValues(low, high, size)
            return found
        first, last = max(math.ceil(low), 1), min(math.floor(high), len(self.names))
        self._slot = size / max(high - low, 1e-9)
        every = max(math.ceil(NARROWEST_NAME / self._slot), 1)
        return [(1.0, [float(place) for place in range(first, last + 1, every)])]

    def tickStrings(self, values: list[float], scale: float, spacing: float) -> list[str]:
        """Figures with a true minus sign, or names, shortened to their room."""
        if not self.names:
            return [with_minus(text) for text in super().tickStrings(values, scale, spacing)]
        room = int(self._slot * (values[1] - values[0] if len(values) > 1 else 1.0)) - 6
        metrics = QFontMetrics(tick_font())
        return [short_name(self.names[int(value) - 1], metrics, room) for value in values]

    def show_names(self, names: tuple[str, ...]) -> None:
        """Names at 1…p in place of figures; as many as fit."""
        self.names = names
        self.picture = None


def short_name(name: str, metrics: QFontMetrics, room: int) -> str:
    """A name that fits: without its unit, then cut, where there is no room for all of it."""
    if metrics.horizontalAdvance(name) <= room:
        return name
    bare = name.partition(" / ")[0]
    return metrics.elidedText(bare, Qt.TextElideMode.ElideRight, room)
