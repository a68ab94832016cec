"""Bands behind a strip, one for each channel; neighbours that look the same are painted as one."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import QColor, QPainter
from PySide6.QtWidgets import QStyleOptionGraphicsItem, QWidget

from scutcher.charts import colours
from scutcher.charts.description import Shade
from scutcher.core.arrays import Floats
from scutcher.desk.guard import guarded
from scutcher.desk.painting.plotting_library import pg

STEPS, DARKEST = 12, 72


class ShadeItem(pg.GraphicsObject):  # type: ignore[misc]
    """Paints a shade over the whole height of its view; it has no bounds of its own."""

    def __init__(self, depth: float, narrowest: int = 0) -> None:
        super().__init__()
        self._narrowest = narrowest
        self.setZValue(depth)
        self.bands: list[tuple[float, float, QColor]] = []
        self._ends = np.empty((2, 0))

    def show_shade(self, shade: Shade | None) -> None:
        """Put another shade in."""
        self.bands = [] if shade is None else bands_of(shade)
        self._ends = np.array([band[:2] for band in self.bands]).reshape(-1, 2).T
        self.prepareGeometryChange()
        self.update()

    def boundingRect(self) -> QRectF:
        """All that is seen, so that it is painted wherever the view is."""
        view = self.getViewBox()
        return QRectF() if view is None or not self.bands else view.viewRect()

    def viewRangeChanged(self) -> None:
        """The bounds are those of the view."""
        self.prepareGeometryChange()

    @guarded
    def paint(
        self, painter: QPainter, option: QStyleOptionGraphicsItem, widget: QWidget | None = None
    ) -> None:
        """Bands from the bottom to the top, between whole pixels: two never overlap."""
        view = self.getViewBox()
        if view is None or not self.bands:
            return
        (left, right), (bottom, top) = view.viewRange()
        transform = painter.worldTransform()
        area = QRectF(transform.map(QPointF(left, top)), transform.map(QPointF(right, bottom))).normalized()
        scale = area.width() / (right - left)
        painter.save()
        painter.resetTransform()
        low, high = (area.left() + (ends - left) * scale for ends in self._ends)
        first, last = round(area.left()), round(area.right())
        start = np.maximum(np.rint(low).astype(np.intp), first)
        end = np.maximum(np.minimum(np.rint(high).astype(np.intp), last), start + self._narrowest)
        for place in np.flatnonzero((start < end) & (start < area.right())).tolist():
            wide = int(end[place] - start[place])
            rect = QRectF(int(start[place]), area.top(), wide, area.height())
            painter.fillRect(rect, self.bands[place][2])
        painter.restore()


def bands_of(shade: Shade) -> list[tuple[float, float, QColor]]:
    """From, to and colour of each band, in data units."""
    if not len(shade.x):
        return []
    order = np.argsort(shade.x, kind="stable")
    low, high = _reach(shade.x[order])
    steps = np.rint(np.clip(shade.strength[order], 0.0, 1.0) * STEPS).astype(np.intp)
    codes = shade.codes[order]
    changes = (np.diff(steps) != 0) | (np.diff(codes) != 0) | (low[1:] > high[:-1])
    starts = np.flatnonzero(np.r_[True, changes])
    found, made = [], dict[tuple[int, int], QColor]()
    for start, end in zip(starts.tolist(), [*(starts[1:] - 1).tolist(), len(order) - 1], strict=True):
        if steps[start]:
            look = int(codes[start]), int(steps[start])
            colour = made.get(look) or made.setdefault(look, _colour(*look))
            found.append((float(low[start]), float(high[end]), colour))
    return found


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
