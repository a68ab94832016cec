"""Names beside the marks of a plane, turned round them until none covers another."""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QRectF

from scutcher.charts import colours
from scutcher.charts.description import Chart, Marks
from scutcher.charts.emphasis import HIDDEN
from scutcher.core.arrays import Integers
from scutcher.desk.painting.plotting_library import pg
from scutcher.desk.painting.setup import pen, tick_font
from scutcher.desk.painting.strokes import Leader

if TYPE_CHECKING:
    from scutcher.desk.painting.area import PlotArea

MOST_LABELS = 80
FAR = tuple(side * float(off) for off in range(1, 9) for side in (1, -1))
"""Heights of a name that one of a picked mark may stand above or below it, where it has no room beside."""

LABELLED = 12
"""Picked samples that get their name; more would be soup."""

BESIDE = 1.5
"""Sizes of a mark within which its name stands beside it."""

DEPTH = 29.0
"""Of the lines from marks to names that stand farther off."""


class MarkNames:
    """Text items of one plane, used again for the next marks."""

    def __init__(self, view: PlotArea, size: float) -> None:
        self._view, self._size = view, size
        self._labels: list[pg.TextItem] = []

    def show(self, chart: Chart | None, marks: Marks | None, strength: Integers, front: Integers) -> None:
        """Names beside the marks that have one; where one would cover another it is left away."""
        spare, self._labels = self._labels, []
        if marks is None or chart is None:
            self._drop(spare)
            self._view.layers.show(DEPTH, ())
            return
        names = chart.labels or marks.names
        always = [place for place, name in enumerate(chart.labels) if name and not name.startswith("\0")]
        wanted = [*(front.tolist() if len(front) <= LABELLED else []), *always]
        taken: list[QRectF] = []
        leaders: list[Leader] = []
        for place in list(dict.fromkeys(wanted))[:MOST_LABELS]:
            if strength[place] == HIDDEN:
                continue
            name = names[place].removeprefix("\0")
            label = spare.pop() if spare else self.label(name)
            x, y = float(marks.x[place]), float(marks.y[place])
            self.put(label, name, x, y)
            area = self._evade(label, x, y, taken, FAR if place in front else ())
            if area is None and place not in front:
                spare.append(label)
                continue
            taken.append(area or self._area_of(label, x, y))
            leaders += self._leader(taken[-1], x, y)
            self._labels.append(label)
        self._drop(spare)
        self._view.layers.show(DEPTH, leaders)

    def _leader(self, area: QRectF, x: float, y: float) -> list[Leader]:
        """A line from a mark to its name, where that does not stand beside it."""
        across, down = (float(values[0]) for values in self._view.to_pixels(np.array([x]), np.array([y])))
        right = min(max(across, area.left()), area.right()) - across
        below = min(max(down, area.top()), area.bottom()) - down
        if np.hypot(right, below) <= BESIDE * self._size:
            return []
        return [Leader(x, y, right, below, pen(colours.MUTED, 0.8))]

    def _evade(
        self, label: pg.TextItem, x: float, y: float, taken: list[QRectF], far: tuple[float, ...]
    ) -> QRectF | None:
        """Turn a name round its mark, and farther off, until it covers no other; what it covers, or None."""
        usual = label.anchor
        size = label.boundingRect()
        across = (self._size + 3.0) / max(size.width(), 1.0)
        up = (self._size - 1.0) / max(size.height(), 1.0)
        around = [(usual.x(), usual.y()), (1.0 - usual.x(), 0.5), (0.5, 1.0 + up), (0.5, -up)]
        around += [(-across, 1.0 + up), (-across, -up), (1.0 + across, 1.0 + up), (1.0 + across, -up)]
        around += [(side, 0.5 + off) for off in far for side in (usual.x(), 1.0 - usual.x())]
        away = 1.0 if usual.x() > 0.5 else -1.0
        around += [(usual.x() + away * off, 0.5) for off in far if off > 0.0]
        inside = self._view.ground.sceneBoundingRect()
        for anchor in around:
            label.setAnchor(anchor)
            area = self._area_of(label, x, y)
            if inside.contains(area) and not any(area.intersects(other) for other in taken):
                return area
        label.setAnchor((usual.x(), usual.y()))
        return None

    def _drop(self, labels: list[pg.TextItem]) -> None:
        for label in labels:
            self._view.removeItem(label)

    def _area_of(self, label: pg.TextItem, x: float, y: float) -> QRectF:
        """What a name covers, in pixels of the scene."""
        across, down = self._view.to_pixels(np.array([x]), np.array([y]))
        size = label.boundingRect()
        anchor = label.anchor
        left = float(across[0]) - anchor.x() * size.width()
        return QRectF(left, float(down[0]) - anchor.y() * size.height(), size.width(), size.height() * 0.8)

    def label(self, text: str) -> pg.TextItem:
        label = pg.TextItem(text, color=colours.INK, anchor=(0.0, 0.5))
        font = tick_font()
        font.setPixelSize(11)
        label.setFont(font)
        label.setZValue(30)
        self._view.addItem(label, ignoreBounds=True)
        return label

    def put(self, label: pg.TextItem, text: str, x: float, y: float) -> None:
        """Place a name beside its mark, on the side where there is room."""
        label.setText(text)
        (left, right), _ = self._view.ground.viewRange()
        to_left = x > left + 0.8 * (right - left)
        gap = (self._size + 3.0) / max(label.boundingRect().width(), 1.0)
        label.setAnchor((1.0 + gap, 0.5) if to_left else (-gap, 0.5))
        label.setPos(x, y)
