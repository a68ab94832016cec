"""A picture of values over two axes; a click tells the places."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtWidgets import QWidget

from scutcher.charts import colours
from scutcher.charts.description import Chart, Grid
from scutcher.core.arrays import Integers
from scutcher.desk.painting.area import PlotArea
from scutcher.desk.painting.plotting_library import pg


class GridView(PlotArea):
    """Draws the grid of a chart."""

    clicked_at = Signal(int, int)
    channel = Signal(object)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.image = pg.ImageItem(axisOrder="row-major")
        self.addItem(self.image)
        self.chart: Chart | None = None
        self.ground.on_click = self._on_click
        self.ground.on_double_click = self.whole
        self.pointed.connect(self._on_pointed)
        self.left.connect(lambda: self.channel.emit(None))

    def show_chart(self, chart: Chart, strength: Integers) -> None:
        """Draw another grid; a picture has no emphasis."""
        self.chart = chart
        self.bottom_axis.show_names(chart.tick_names)
        self.left_axis.show_names(chart.tick_names)
        self.show_axes(not chart.is_blank)
        self.draw_curves(chart.curves)
        self.image.setVisible(chart.grid is not None)
        if chart.grid is not None:
            grid = chart.grid
            self.image.setImage(ascending(grid), levels=(grid.low, grid.high), autoLevels=False)
            table = colours.signed_map() if grid.signed else colours.unsigned_map()
            self.image.setLookupTable(np.array([(*colour, 255) for colour in table], dtype=np.uint8))
            self.image.setRect(_area(grid))
        self.whole()

    def whole(self) -> None:
        """Show all of the picture."""
        if self.chart is not None and self.chart.grid is not None:
            area = _area(self.chart.grid)
            self.ground.setRange(area, padding=0.0)

    def _places(self, x: float, y: float) -> tuple[int, int] | None:
        grid = None if self.chart is None else self.chart.grid
        if grid is None or not _area(grid).contains(QPointF(x, y)):
            return None
        return int(np.abs(grid.x - x).argmin()), int(np.abs(grid.y - y).argmin())

    def _on_click(self, place: QPointF, modifiers: Qt.KeyboardModifier) -> None:
        found = self._places(*self.to_data(place))
        if found is not None:
            self.clicked_at.emit(*found)

    def _on_pointed(self, x: float, y: float) -> None:
        found = self._places(x, y)
        if found is not None and self.chart is not None and self.chart.grid is not None:
            self.channel.emit(float(self.chart.grid.x[found[0]]))


def ascending(grid: Grid, missing: float | None = None) -> np.ndarray:
    """The values with both axes rising; gaps as `missing`, or in the middle of the colours' range."""
    values = grid.values
    if len(grid.x) > 1 and grid.x[0] > grid.x[-1]:
        values = values[:, ::-1]
    if len(grid.y) > 1 and grid.y[0] > grid.y[-1]:
        values = values[::-1]
    gaps = np.isnan(values)
    if not gaps.any():
        return values
    return np.where(gaps, (0.0 if grid.signed else grid.low) if missing is None else missing, values)


def _area(grid: Grid) -> QRectF:
    """The places, with half a step around."""
    sides = []
    for places in (grid.x, grid.y):
        low, high = float(places.min()), float(places.max())
        half = (high - low) / max(len(places) - 1, 1) / 2.0 or 0.5
        sides.append((low - half, high - low + 2.0 * half))
    return QRectF(sides[0][0], sides[1][0], sides[0][1], sides[1][1])
