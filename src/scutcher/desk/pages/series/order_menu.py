"""The menu of what puts the samples of a series in order."""

from __future__ import annotations

from functools import partial
from typing import TYPE_CHECKING

from scutcher.core.data.layouts import SeriesLayout
from scutcher.desk.widgets.choice_menu import ChoiceMenu
from scutcher.study.document.commands.series import LieAs, no_layout
from scutcher.study.evaluation.orders import layout_of_state

if TYPE_CHECKING:
    from scutcher.desk.pages.series.page import SeriesPage

WIDTHS = (1, 3, 5, 9, 15)
"""Neighbours that a and b are means of."""


def fill_order(page: SeriesPage, menu: ChoiceMenu) -> None:
    """What puts the samples in order, which series is looked at, how wide a and b are, what is done then."""

    def lie(layout: SeriesLayout) -> None:
        page.desk.do(LieAs(layout))

    state, series = page.desk.moment.state, page.work.series
    layout = layout_of_state(state)
    if state.table is None or layout is None:
        return
    for column in (*state.table.properties, None):
        name = "" if column is None else column.name
        words = f"by {column.header}" if column is not None else "by their order in the table"
        menu.add(words, layout.position == name, partial(lie, SeriesLayout(name, layout.series)))
    menu.line()
    for level in (*state.table.classes, None):
        name = "" if level is None else level.name
        words = f"a series for each {name}" if name else "one series"
        menu.add(words, layout.series == name, partial(lie, SeriesLayout(layout.position, name)))
    if series is not None and len(series.order.names) > 1:
        menu.line()
        for code, name in enumerate(series.order.names):
            menu.add(f"look at {name}", page.hands.code == code, partial(page.look_at, code))
    menu.line()
    for width in WIDTHS:
        words = f"a and b: means of {width}" if width > 1 else "a and b: single spectra"
        menu.add(words, page.hands.a.count == width, partial(page.set_width, width))
    menu.line()
    menu.add("watch from a on", False, page.watch_from_a)
    menu.add("rebuild from what goes along, as a knot", False, page.rebuild)
    menu.add("shifts to the peak as a column", False, page.shifts_as_column)
    menu.add("samples stand for themselves", False, lambda: page.desk.do(no_layout()))
