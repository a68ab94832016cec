"""Curves over a plot: ellipses, hulls, arrows, baselines, references."""

from __future__ import annotations

import numpy as np
import pyqtgraph as pg

from scutcher.charts import colours
from scutcher.charts.description import Curve
from scutcher.desk.painting.setup import pen, tick_font

ROLES = {"quiet": colours.MUTED, "ink": colours.INK, "accent": colours.ACCENT, "alarm": colours.ALARM}


def curve_colour(curve: Curve) -> str:
    """The colour of its role, or of its class."""
    return colours.class_colour(curve.code) if curve.role == "class" else ROLES[curve.role]


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
    """Names of arrows stand outside, away from the origin."""
    if not curve.arrow:
        return (0.0, 0.5)
    return (0.0 if np.sign(curve.x[-1]) >= 0 else 1.0, 1.0 if np.sign(curve.y[-1]) >= 0 else 0.0)
