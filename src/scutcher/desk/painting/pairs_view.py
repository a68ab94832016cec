"""Every pair of a series as a triangle; a click chooses a pair, a ring stands where the two handles meet."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, Qt, Signal
from PySide6.QtWidgets import QWidget

from scutcher.charts import colours
from scutcher.charts.description import Chart
from scutcher.core.arrays import Integers
from scutcher.desk.painting.grid import GridView
from scutcher.desk.painting.plotting_library import pg
from scutcher.desk.painting.series_view import rgba
from scutcher.desk.painting.setup import pen


class PairsView(GridView):
    """x is b, y is a, downwards."""

    pair_chosen = Signal(float, float)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.ground.invertY(True)
        style = {"symbol": "o", "size": 13.0, "brush": None}
        self.outer = pg.ScatterPlotItem(**style, pen=pen(colours.PAPER, 4.0))
        self.ring = pg.ScatterPlotItem(**style, pen=pen(colours.ALARM, 2.0))
        for item in (self.outer, self.ring):
            item.setZValue(30)
            self.addItem(item, ignoreBounds=True)

    def show_chart(self, chart: Chart, strength: Integers) -> None:
        """Draw another triangle; pairs that say nothing stay paper."""
        super().show_chart(chart, strength)
        if chart.grid is not None:
            self.image.setImage(rgba(chart), autoLevels=False, levels=(0, 255))
            self.image.setLookupTable(None)

    def show_pair(self, a: float, b: float) -> None:
        """Where the two handles meet."""
        shown = self.chart is not None and self.chart.grid is not None
        at = (np.array([b]), np.array([a])) if shown else (np.empty(0), np.empty(0))
        for item in (self.outer, self.ring):
            item.setData(*at)

    def _on_click(self, place: QPointF, modifiers: Qt.KeyboardModifier) -> None:
        x, y = self.to_data(place)
        if self._places(x, y) is not None:
            self.pair_chosen.emit(y, x)
