"""Options of the plotting library, set once; pens, fonts and axes in our manner."""

from __future__ import annotations

import pyqtgraph as pg
from PySide6.QtCore import Qt
from PySide6.QtGui import QColor, QFont, QPen

from scutcher.charts import colours

pg.setConfigOptions(
    antialias=True,
    background=colours.PAPER,
    foreground=colours.MUTED,
    mouseRateLimit=-1,  # a lasso wants every place that the pointer was at
)

TICK_FONT_PX = 10


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

    def tickStrings(self, values: list[float], scale: float, spacing: float) -> list[str]:
        """Figures with a true minus sign."""
        return [text.replace("-", "−") for text in super().tickStrings(values, scale, spacing)]

    def show_names(self, names: tuple[str, ...]) -> None:
        """Names at 1…p in place of figures; as many as fit."""
        self.names = names
        self.setTicks([[(place + 1.0, name) for place, name in enumerate(names)]] if names else None)
