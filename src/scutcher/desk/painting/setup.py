"""Options of the plotting library, set once; pens and fonts in our manner."""

from __future__ import annotations

from functools import cache, lru_cache

from PySide6.QtCore import Qt
from PySide6.QtGui import QColor, QFont, QPen

from scutcher.desk.painting.plotting_library import pg

pg.setConfigOptions(antialias=True, mouseRateLimit=-1)  # a lasso wants every place of the pointer

TICK_FONT_PX = 10


def pen(colour: str, width: float = 1.0, dashes: bool = False) -> QPen:
    """A cosmetic pen."""
    return QPen(_pen(colour, width, dashes))


@lru_cache(256)
def _pen(colour: str, width: float, dashes: bool) -> QPen:
    made = QPen(QColor(colour))
    made.setWidthF(width)
    made.setCosmetic(True)
    made.setJoinStyle(Qt.PenJoinStyle.RoundJoin)
    if dashes:
        made.setDashPattern([4.0, 3.0])
    return made


def tick_font() -> QFont:
    """The face of the tick figures."""
    return QFont(_face())


@cache
def _face() -> QFont:
    font = QFont("Inter")
    font.setPixelSize(TICK_FONT_PX)
    font.setFeature(QFont.Tag("tnum"), 1)
    return font
