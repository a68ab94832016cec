"""A right click on any chart or table of a window opens its menu: copy, write, save."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QPoint
from PySide6.QtWidgets import QMenu, QStackedWidget, QTableView, QWidget

from scutcher.charts.description import Chart
from scutcher.desk.pages.declaration import PageView
from scutcher.desk.widgets.panel import ChartPanel
from scutcher.desk.widgets.shown_tables import TellsNumbers, source_of


class ChartMenus:
    """Finds the chart or table under a right click that nothing on the way has answered."""

    def __init__(
        self,
        window: QWidget,
        make: Callable[[Chart, QWidget], QMenu],
        of_numbers: Callable[[QWidget, QTableView | TellsNumbers], QMenu],
    ) -> None:
        self.window, self._make, self._of_numbers = window, make, of_numbers

    def open_at(self, where: QPoint) -> QMenu | None:
        """Open the menu of the chart or table at a place of the screen, where there is one."""
        widget = self.window.childAt(self.window.mapFromGlobal(where))
        source = source_of(widget)
        if source is not None and isinstance(source, QWidget):
            menu = self._of_numbers(source, source)
            menu.popup(where)
            return menu
        panel = self.panel_of(widget)
        plot = _plot_around(widget) if panel is None else panel.view
        chart = None if plot is None else getattr(_shown_in(plot), "chart", None)
        if plot is None or not isinstance(chart, Chart) or chart.is_blank:
            return None
        menu = self._make(chart, panel or plot)
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


def charts_on(shown: QWidget | None) -> list[Chart]:
    """The charts on a page, or on what is over it, that have something in them."""
    if shown is None:
        return []
    from scutcher.desk.painting.plane import PlaneView  # loads the plots, which the first frame needs not

    panels = [panel.view for panel in shown.findChildren(ChartPanel) if panel.isVisible()]
    bare = [plane for plane in shown.findChildren(PlaneView) if plane.isVisible()]
    drawn = [getattr(view, "chart", None) for view in (*panels, *bare)]
    page = shown.charts() if isinstance(shown, PageView) else []
    every = [*page, *(chart for chart in drawn if isinstance(chart, Chart) and not chart.is_blank)]
    return list({id(chart): chart for chart in every}.values())


def _plot_around(widget: QWidget | None) -> QWidget | None:
    """A plot that stands in no panel."""
    from scutcher.desk.painting.plane import PlaneView  # loads the plots, which the first frame needs not
    from scutcher.desk.painting.strip import StripView

    while widget is not None and not isinstance(widget, PlaneView | StripView):
        widget = widget.parentWidget()
    return widget


def _shown_in(view: QWidget) -> QWidget | None:
    """The view itself, or of several in one place the one that is seen."""
    return view.currentWidget() if isinstance(view, QStackedWidget) else view
