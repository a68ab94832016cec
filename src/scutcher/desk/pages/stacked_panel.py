"""A panel that shows one of several views in the same place."""

from __future__ import annotations

from typing import Any

import numpy as np
from PySide6.QtWidgets import QStackedWidget, QWidget

from scutcher.charts.description import Chart
from scutcher.desk.context import Desk
from scutcher.desk.pages.showing import show
from scutcher.desk.painting.grid import GridView
from scutcher.desk.widgets.panel import ChartPanel

NOBODY = np.empty(0, dtype=np.intp)
"""Who stands out in a picture."""


class StackedPanel(ChartPanel):
    """The view on top is the one that was shown last."""

    def __init__(self, definition: str, *views: QWidget, bottom_title: bool = True) -> None:
        self.stack = QStackedWidget()
        for view in views:
            self.stack.addWidget(view)
        super().__init__(self.stack, definition, bottom_title)

    def put(self, desk: Desk, view: Any, chart: Chart, key: str = "") -> None:
        """A chart in one of the views, which comes to the top; with markup in the place of its note."""
        comes_up = self.stack.currentWidget() is not view
        if comes_up:
            self.stack.setCurrentWidget(view)
        if comes_up or view.chart is not chart:
            self.describe(chart, key)
        if not isinstance(view, GridView):
            show(desk, self, view, chart, desk.moment.state, key)
        elif view.chart is not chart:
            view.show_chart(chart, NOBODY)

    def put_words(self, view: QWidget, title: str, note: str) -> None:
        """A view without a chart, as a table."""
        self.stack.setCurrentWidget(view)
        self.describe(Chart(title=title, note=note))
        self.empty.hide()
