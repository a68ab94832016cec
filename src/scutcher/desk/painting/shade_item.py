"""Bands behind a strip, one for each channel; neighbours that look the same are painted as one."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QColor, QPainter
from PySide6.QtWidgets import QStyleOptionGraphicsItem, QWidget

from scutcher.charts import colours
from scutcher.charts.description import Shade
from scutcher.core.arrays import Floats, Integers
from scutcher.core.frozen import frozen
from scutcher.desk.guard import guarded
from scutcher.desk.painting.plotting_library import pg

STEPS, DARKEST = 12, 72


@frozen(eq=False)
class Bands:
    """From and to of each band in data units, its class (−1: none) and how many STEPS strong; (m,) arrays."""

    low: Floats
    high: Floats
    codes: Integers
    steps: Integers


NOTHING = Bands(np.empty(0), np.empty(0), np.empty(0, dtype=np.intp), np.empty(0, dtype=np.intp))


class ShadeItem(pg.GraphicsObject):  # type: ignore[misc]
    """Paints a shade over the whole height of its view; it has no bounds of its own."""

    def __init__(self, depth: float, narrowest: int = 0) -> None:
        super().__init__()
        self._narrowest = narrowest
        self.setZValue(depth)
        self.bands = NOTHING

    def show_shade(self, shade: Shade | None) -> None:
        """Put another shade in."""
        self.bands = NOTHING if shade is None else bands_of(shade)
        self.prepareGeometryChange()
        self.update()

    def boundingRect(self) -> QRectF:
        """All that is seen, so that it is painted wherever the view is."""
        view = self.getViewBox()
        return QRectF() if view is None or not len(self.bands.low) else view.viewRect()

    def viewRangeChanged(self) -> None:
        """The bounds are those of the view."""
        self.prepareGeometryChange()

    @guarded
    def paint(
        self, painter: QPainter, option: QStyleOptionGraphicsItem, widget: QWidget | None = None
    ) -> None:
        """Bands from the bottom to the top, between whole pixels: two never overlap."""
        view, bands = self.getViewBox(), self.bands
        if view is None or not len(bands.low):
            return
        (left, right), (bottom, top) = view.viewRange()
        transform = painter.worldTransform()
        area = QRectF(transform.map(QPointF(left, top)), transform.map(QPointF(right, bottom))).normalized()
        low, high = (
            np.rint(area.left() + (ends - left) * (area.width() / (right - left)))
            for ends in (bands.low, bands.high)
        )
        edge = round(area.left())
        start = np.maximum(low, edge)
        end = np.maximum(np.minimum(high, round(area.right())), start + self._narrowest)
        colours_of: dict[tuple[int, int], QColor] = {}
        painter.save()
        painter.resetTransform()
        seen = (start < end) & (start < area.right()) & ((high > edge) | (low >= edge))
        for place in np.flatnonzero(seen).tolist():
            look = int(bands.codes[place]), int(bands.steps[place])
            colour = colours_of.get(look) or colours_of.setdefault(look, _colour(*look))
            wide = float(end[place] - start[place])
            painter.fillRect(QRectF(float(start[place]), area.top(), wide, area.height()), colour)
        painter.restore()


def bands_of(shade: Shade) -> Bands:
    """The bands of a shade; channels that it does not touch have none."""
    if not len(shade.x):
        return NOTHING
    order = np.argsort(shade.x, kind="stable")
    low, high = _reach(shade.x[order])
    steps = np.rint(np.clip(shade.strength[order], 0.0, 1.0) * STEPS).astype(np.intp)
    codes = shade.codes[order]
    changes = (np.diff(steps) != 0) | (np.diff(codes) != 0) | (low[1:] > high[:-1])
    starts = np.flatnonzero(np.r_[True, changes])
    ends = np.append(starts[1:] - 1, len(order) - 1)
    there = steps[starts] > 0
    starts, ends = starts[there], ends[there]
    return Bands(low[starts], high[ends], codes[starts], steps[starts])


def _colour(code: int, step: int) -> QColor:
    """Of a class, or of none, so many steps strong."""
    colour = QColor(colours.ACCENT if code < 0 else colours.group_colour(code))
    colour.setAlpha(int((DARKEST if code < 0 else 255) * step / STEPS))
    return colour


def _reach(x: Floats) -> tuple[Floats, Floats]:
    """Half the way to the neighbours of each place, but over a gap in the axis no farther than usual."""
    if len(x) == 1:
        return x - 0.5, x + 0.5
    steps = np.diff(x)
    half = np.minimum(steps, 1.5 * float(np.median(steps))) / 2.0
    return x - np.r_[half[0], half], x + np.r_[half, half[-1]]
