"""Curves over a plot: ellipses, hulls, arrows, baselines, references."""

from __future__ import annotations

import pyqtgraph as pg
from PySide6.QtCore import QPointF
from PySide6.QtGui import QColor, QPainterPath, QPolygonF
from PySide6.QtWidgets import QGraphicsPathItem

from scutcher.charts import colours
from scutcher.charts.description import Area, Curve, Flags
from scutcher.desk.painting.setup import pen, tick_font

ROLES = {"quiet": "MUTED", "ink": "INK", "accent": "ACCENT", "other": "OCHRE", "alarm": "ALARM"}
"""Names of colours."""


def curve_colour(curve: Curve) -> str:
    """The colour of its role, or of its class."""
    if curve.role == "class":
        return colours.class_colour(curve.code)
    return str(getattr(colours, ROLES[curve.role]))


WASH = 36  # how opaque the filling of a region is, of 255


def area_items(area: Area) -> list[pg.GraphicsObject]:
    """What draws a region: a soft filling and a thin outline."""
    colour = colours.class_colour(area.code)
    wash = QColor(colour)
    wash.setAlpha(WASH)
    path = QPainterPath()
    path.addPolygon(QPolygonF([QPointF(x, y) for x, y in zip(area.x.tolist(), area.y.tolist(), strict=True)]))
    item = QGraphicsPathItem(path)
    item.setBrush(wash)
    item.setPen(pen(colour, 0.8))
    item.setZValue(-2.0)
    return [item]


SYMBOLS = {"ring": ("o", 12.0), "cross": ("x", 11.0)}


def flag_items(flags: Flags) -> list[pg.GraphicsObject]:
    """Signs over marks; a click on one is meant for the mark under it."""
    symbol, size = SYMBOLS[flags.symbol]
    style = pen(colours.ALARM, 1.4) if flags.alarm else pen(colours.MUTED, 0.8)
    item = _Head(flags.x, flags.y, symbol=symbol, size=size, pen=style, brush=None)
    item.setZValue(14.0)
    return [item]


class _Head(pg.ScatterPlotItem):  # type: ignore[misc]
    """The head of an arrow; a click on it is meant for the mark under it."""

    def mouseClickEvent(self, event: object) -> None:
        """Let it through."""
        event.ignore()  # type: ignore[attr-defined]


def curve_items(curve: Curve) -> list[pg.GraphicsObject]:
    """What draws one curve: the line, the head of an arrow, the name at its end."""
    colour, depth = curve_colour(curve), 4.0 if curve.behind else 18.0
    line = pg.PlotCurveItem(
        curve.x, curve.y, pen=pen(colour, curve.width, dashes=curve.dashes), connect="finite", antialias=True
    )
    line.setZValue(depth)
    items: list[pg.GraphicsObject] = [line]
    if curve.arrow and len(curve.x) > 1:
        head = _Head([float(curve.x[-1])], [float(curve.y[-1])], symbol="o", size=4.0, pen=None, brush=colour)
        head.setZValue(depth)
        items.append(head)
    if curve.name:
        label = pg.TextItem(curve.name, color=colour, anchor=_anchor(curve))
        font = tick_font()
        font.setPixelSize(11)
        label.setFont(font)
        label.setPos(float(curve.x[-1]), float(curve.y[-1]))
        label.setZValue(depth + 1.0)
        items.append(label)
    return items


def _anchor(curve: Curve) -> tuple[float, float]:
    """Names of arrows stand beyond their ends."""
    if not curve.arrow:
        return (0.0, 0.5)
    across, up = float(curve.x[-1] - curve.x[0]), float(curve.y[-1] - curve.y[0])
    return (0.0 if across >= 0.0 else 1.0, 1.0 if up >= 0.0 else 0.0)
