"""The one way from a chart to a panel: words around it, the view in it, and who stands out."""

from __future__ import annotations

import numpy as np

from scutcher.charts.description import Chart
from scutcher.charts.emphasis import chart_strength, colouring_of
from scutcher.core.arrays import Integers
from scutcher.desk.context import Desk
from scutcher.desk.painting.plane import PlaneView
from scutcher.desk.painting.strip import StripView
from scutcher.desk.widgets.panel import ChartPanel
from scutcher.study.document.state import State

View = StripView | PlaneView


def strength_of(desk: Desk, chart: Chart, state: State) -> Integers:
    """How strongly each line or mark of a chart is drawn now."""
    return chart_strength(chart, desk.selection.look, colouring_of(state).levels)


def show(desk: Desk, panel: ChartPanel, view: View, chart: Chart, state: State, key: str = "") -> None:
    """Put a chart into a view, unless it is there already; then only who stands out may be other."""
    strength = strength_of(desk, chart, state)
    if view.chart is not chart:
        panel.describe(chart, key)
        view.show_chart(chart, strength)
        view.settle()
    elif not np.array_equal(strength, view.strength):
        view.emphasise(strength)


def emphasise(desk: Desk, views: tuple[View, ...], state: State) -> None:
    """The pick or the class in focus changed: the same charts, others stand out."""
    for view in views:
        if view.chart is not None:
            view.emphasise(strength_of(desk, view.chart, state))
