"""A series as a picture with two handles: stretches of it that are dragged, and a row under the pointer."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, Qt, Signal
from PySide6.QtWidgets import QWidget

from scutcher.charts import colours
from scutcher.charts.description import Chart
from scutcher.core.arrays import Integers
from scutcher.desk.painting.grid import GridView, ascending
from scutcher.desk.painting.plotting_library import pg
from scutcher.desk.painting.setup import pen, tick_font


class SeriesView(GridView):
    """Draws the grid of a chart with y downwards; `moving` and `moved` tell where a handle is."""

    moving = Signal(int, float)
    moved = Signal(int, float)
    row_hovered = Signal(object)
    row_picked = Signal(float, object)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.ground.invertY(True)
        self.handles = [self._handle(place) for place in range(2)]
        self.labels = [self._label(place) for place in range(2)]
        self.ground.sigResized.connect(lambda: self._put_labels())
        self.ground.sigRangeChanged.connect(lambda: self._put_labels())

    def _handle(self, place: int) -> pg.InfiniteLine:
        line = pg.InfiniteLine(angle=0, movable=True, pen=pen(colours.COMPONENT_COLOURS[place], 2.4))
        line.setHoverPen(pen(colours.COMPONENT_COLOURS[place], 4.0))
        line.setZValue(20 + place)
        line.sigDragged.connect(lambda: self._on_dragged(place, False))
        line.sigPositionChangeFinished.connect(lambda: self._on_dragged(place, True))
        self.addItem(line, ignoreBounds=True)
        return line

    def _label(self, place: int) -> pg.TextItem:
        label = pg.TextItem("", color=colours.PAPER, fill=colours.COMPONENT_COLOURS[place], anchor=(1.0, 0.5))
        font = tick_font()
        font.setBold(True)
        label.setFont(font)
        label.setZValue(24)
        self.addItem(label, ignoreBounds=True)
        return label

    def show_chart(self, chart: Chart, strength: Integers) -> None:
        """Draw another picture; a gap between positions stays paper."""
        super().show_chart(chart, strength)
        self.left_axis.show_names(())
        blank = chart.grid is None
        for item in (*self.handles, *self.labels):
            item.setVisible(not blank)
        if chart.grid is not None and np.isnan(chart.grid.values).any():
            self.image.setImage(rgba(chart), autoLevels=False, levels=(0, 255))
            self.image.setLookupTable(None)

    def show_handles(self, positions: tuple[float, float], words: tuple[str, str]) -> None:
        """Where a and b are, and what is said of them."""
        for place in range(2):
            line, label = self.handles[place], self.labels[place]
            line.blockSignals(True)
            line.setValue(positions[place])
            line.blockSignals(False)
            label.setText(f" {words[place]} ")
        self._put_labels()

    def _put_labels(self) -> None:
        """At the right end of their lines, inside the picture."""
        (_, right), (top, bottom) = self.ground.viewRange()
        low, high = sorted((top, bottom))
        half = 9.0 / max(self.ground.height(), 1.0) * (high - low)
        for place in range(2):
            at = float(np.clip(self.handles[place].value(), low + half, high - half))
            self.labels[place].setPos(right, at)

    def _on_dragged(self, place: int, finished: bool) -> None:
        value = float(self.handles[place].value())
        self._put_labels()
        (self.moved if finished else self.moving).emit(place, value)

    def _on_click(self, place: QPointF, modifiers: Qt.KeyboardModifier) -> None:
        super()._on_click(place, modifiers)
        if self.chart is not None and self.chart.grid is not None:
            self.row_picked.emit(self.to_data(place)[1], modifiers)

    def _on_pointed(self, x: float, y: float) -> None:
        super()._on_pointed(x, y)
        if self._places(x, y) is not None:
            self.row_hovered.emit(y)


def rgba(chart: Chart) -> np.ndarray:
    """The colours of a grid, (m, p, 4); where a value is missing nothing is drawn."""
    grid = chart.grid
    assert grid is not None
    table = np.array(colours.signed_map() if grid.signed else colours.unsigned_map(), dtype=np.uint8)
    values = ascending(grid, np.nan)
    share = (values - grid.low) / max(grid.high - grid.low, 1e-300)
    known = np.isfinite(share)
    steps = np.clip(np.nan_to_num(share) * (len(table) - 1), 0, len(table) - 1).astype(np.intp)
    found = np.zeros((*values.shape, 4), dtype=np.uint8)
    found[..., :3] = table[steps]
    found[..., 3] = np.where(known, 255, 0)
    return found
