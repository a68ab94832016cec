"""Bars and curves over the number of components, with the handle that is dragged."""

from __future__ import annotations

import numpy as np
import pyqtgraph as pg
from PySide6.QtCore import Signal
from PySide6.QtWidgets import QWidget

from scutcher.charts import colours
from scutcher.charts.rank import Shares
from scutcher.core.arrays import Floats
from scutcher.desk.painting.area import PlotArea
from scutcher.desk.painting.setup import pen

TOP = 1.05
"""Of the shares."""


class HandlePlot(PlotArea):
    """Shares or eigenvalues of the components; `moving` and `moved` tell how many are kept."""

    moving = Signal(int)
    moved = Signal(int)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.ground.setMouseEnabled(x=False, y=False)
        self.found: Shares | None = None
        self._items: list[pg.GraphicsObject] = []
        self.handle = pg.InfiniteLine(angle=90, movable=True, pen=pen(colours.INK, 2.0))
        self.handle.setHoverPen(pen(colours.ACCENT, 3.0))
        self.handle.setZValue(30)
        self.addItem(self.handle, ignoreBounds=True)
        self.handle.sigDragged.connect(self._on_dragged)
        self.handle.sigPositionChangeFinished.connect(self._on_let_go)

    def show_shares(self, found: Shares | None, kind: str) -> None:
        """Draw "shares", "eigenvalues" or "log"."""
        self.found = found
        for item in self._items:
            self.removeItem(item)
        self._items = []
        self.handle.setVisible(found is not None)
        if found is None:
            return
        m = len(found.each)
        x = np.arange(1.0, m + 1.0)
        if kind == "shares":
            self._bars(x, found.each)
            self._held_out(x, found)
            self._curve(x, found.fitted, colours.INK, "o")
            self.ground.setYRange(0.0, TOP, padding=0.0)
        else:
            values = np.log10(found.eigenvalues) if kind == "log" else found.eigenvalues
            if kind == "eigenvalues":
                self._bars(x, values)
            self._curve(x, values, colours.ACCENT, "o")
            low, high = float(values.min()), float(values.max())
            air = 0.06 * (high - low) or 1.0
            self.ground.setYRange(0.0 if kind == "eigenvalues" else low - air, high + air, padding=0.0)
        self.ground.setXRange(0.4, m + 0.6, padding=0.0)
        self.handle.setBounds((1.5, m + 0.5))
        self.handle.setValue(found.kept + 0.5)
        self.settle()

    def kept_at(self, place: float) -> int:
        """How many are kept with the handle at a place."""
        assert self.found is not None
        return int(min(max(round(place - 0.5), 1), len(self.found.each)))

    def _on_dragged(self) -> None:
        if self.found is not None:
            kept = self.kept_at(float(self.handle.value()))
            if kept != self.found.kept:
                self.moving.emit(kept)

    def _on_let_go(self) -> None:
        if self.found is not None:
            kept = self.kept_at(float(self.handle.value()))
            self.handle.setValue(kept + 0.5)
            self.moved.emit(kept)

    def _add(self, item: pg.GraphicsObject, depth: float) -> None:
        item.setZValue(depth)
        self.addItem(item, ignoreBounds=True)
        self._items.append(item)

    def _bars(self, x: Floats, heights: Floats) -> None:
        assert self.found is not None
        colour = [colours.ACCENT if place < self.found.kept else colours.CHIP for place in range(len(x))]
        self._add(pg.BarGraphItem(x=x, height=heights, width=0.56, brushes=colour, pen=None), 2.0)

    def _curve(self, x: Floats, y: Floats, colour: str, symbol: str) -> None:
        self._add(
            pg.PlotDataItem(
                x, y, pen=pen(colour, 1.5), symbol=symbol, symbolSize=6, symbolBrush=colour, symbolPen=None
            ),
            8.0,
        )

    def _held_out(self, x: Floats, found: Shares) -> None:
        known = np.isfinite(found.held_out)
        if not known.any():
            return
        below = known & (found.held_out < 0.0)
        inside = known & ~below
        errors = np.where(np.isfinite(found.error), found.error, 0.0)
        low = np.clip(found.held_out - errors, 0.0, TOP)
        high = np.clip(found.held_out + errors, 0.0, TOP)
        middle, height = (low + high)[inside] / 2.0, (high - low)[inside]
        bars = pg.ErrorBarItem(x=x[inside], y=middle, height=height, beam=0.16, pen=pen(colours.ALARM, 1.0))
        self._add(bars, 6.0)
        self._curve(x[inside], found.held_out[inside], colours.ALARM, "s")
        if below.any():
            self._mark_below(x[below], found.held_out[below])

    def _mark_below(self, x: Floats, q2: Floats) -> None:
        """Q² below the chart: hollow marks that point down, and how far the lowest is."""
        y = np.full(len(x), 0.03)
        self._add(
            pg.PlotDataItem(
                x, y, pen=None, symbol="t", symbolSize=10, symbolBrush=None, symbolPen=pen(colours.ALARM, 1.5)
            ),
            9.0,
        )
        words = f"Q² {q2.min():.2f}" if len(q2) == 1 else f"Q² below 0, to {q2.min():.2f}"
        label = pg.TextItem(words.replace("-", "−"), color=colours.ALARM, anchor=(1.0, 1.0))
        label.setPos(float(x[-1]) + 0.3, 0.05)
        self._add(label, 9.0)
