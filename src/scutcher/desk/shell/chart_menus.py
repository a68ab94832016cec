"""A right click on any chart of a window opens its menu: copy, write, save."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QPoint
from PySide6.QtWidgets import QMenu, QWidget

from scutcher.charts.description import Chart
from scutcher.desk.widgets.panel import ChartPanel


class ChartMenus:
    """Finds the chart under a right click that nothing on the way has answered."""

    def __init__(self, window: QWidget, make: Callable[[Chart, QWidget], QMenu]) -> None:
        self.window, self._make = window, make

    def open_at(self, where: QPoint) -> QMenu | None:
        """Open the menu of the chart at a place of the screen, where there is one."""
        panel = self.panel_of(self.window.childAt(self.window.mapFromGlobal(where)))
        chart = None if panel is None else getattr(panel.view, "chart", None)
        if panel is None or not isinstance(chart, Chart) or chart.is_blank:
            return None
        menu = self._make(chart, panel)
        menu.popup(where)
        return menu

    def panel_of(self, widget: QWidget | None) -> ChartPanel | None:
        """The panel around a plot; None beside the plot, where words and legends have menus of their own."""
        while widget is not None and not isinstance(widget, ChartPanel):
            parent = widget.parentWidget()
            if isinstance(parent, ChartPanel) and widget is not parent.view:
                return None
            widget = parent
        return widget
