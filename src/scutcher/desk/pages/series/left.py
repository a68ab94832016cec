"""The left of the Series page: the picture with a and b, their difference, amounts and what is left over."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import replace

from PySide6.QtWidgets import QVBoxLayout

from scutcher.charts import colours
from scutcher.charts.along import along
from scutcher.charts.definitions import DEFINITIONS
from scutcher.charts.description import Chart, nothing
from scutcher.charts.distances import run_order
from scutcher.charts.emphasis import colouring_of
from scutcher.charts.memo import ChartMemo
from scutcher.charts.overlays import distance_ghosts
from scutcher.charts.series import amounts as amounts_chart
from scutcher.charts.series.difference import difference
from scutcher.charts.series.picture import KINDS, picture, waterfall
from scutcher.core.errors import InputError
from scutcher.desk.context import Desk
from scutcher.desk.pages.aside import AsideWork
from scutcher.desk.pages.series.hands import Hands, reference_of
from scutcher.desk.pages.series.work import SeriesWork
from scutcher.desk.pages.showing import emphasise, show
from scutcher.desk.pages.stacked_panel import StackedPanel
from scutcher.desk.painting.one_axis import OneAxis
from scutcher.desk.painting.plane import PlaneView
from scutcher.desk.painting.series_view import SeriesView
from scutcher.desk.painting.strip import StripView
from scutcher.desk.widgets.choice_menu import ChoiceMenu
from scutcher.desk.widgets.gestures import attend_plane, attend_strip
from scutcher.desk.widgets.panel import ChartPanel
from scutcher.desk.words import escaped
from scutcher.study.evaluation.series import Series

LOW = 86
"""Pixels of the strip of what is left over."""

SIDES = 1.1774
"""Standard deviations to each side of a peak at half its height."""


class LeftSide:
    """Reads the moment, the hands and the work."""

    def __init__(self, desk: Desk, work: SeriesWork, hands: Callable[[], Hands]) -> None:
        self.desk, self.work, self.hands = desk, work, hands
        self.kind, self.shown, self.overlay, self.lower = "plain", "amounts", False, "left"
        self._memo = ChartMemo()
        self.aside = AsideWork(desk, "series set aside", self._show_below)

    def build(self) -> Iterator[None]:
        """The picture, the difference, the amounts."""
        self.picture, self.falls = SeriesView(), StripView()
        self.picture_panel = StackedPanel(
            "Each row is a spectrum at its position, each column a channel. Drag a and b.",
            self.picture,
            self.falls,
            bottom_title=False,
        )
        self.kind_menu = ChoiceMenu("as they are ▾", "What the picture shows", self._fill_kinds)
        self.picture_panel.add_to_header(self.kind_menu)
        yield
        self.difference = StripView()
        self.difference_panel = ChartPanel(
            self.difference, "The mean of the stretch a less that of b, and the reference laid over it"
        )
        self.over = self.difference_panel.add_switch(
            "both spectra|The spectra of a and b in place of their difference", self._set_overlay
        )
        yield
        self.amounts, self.plane, self.shapes = StripView(), PlaneView(), StripView()
        yield
        self.leftover = PlaneView(mark_size=5.5)
        self.amounts_panel = StackedPanel(
            "How much of each shape is in each spectrum, by least squares",
            self.amounts,
            self.shapes,
            self.plane,
        )
        self.words = self.amounts_panel.add_choices(
            {
                "amounts": "amounts|Along the order, with their bands",
                "shapes": "shapes|What the amounts are of; of found ones how far they could turn",
                "plane": "plane|The first two amounts against each other",
            },
            self._set_shown,
        )
        self.leftover_panel = ChartPanel(
            self.leftover, "Root mean square of what the shapes leave over, against what noise leaves"
        )
        self.leftover_panel.setFixedHeight(LOW + 34)
        self.below = self.leftover_panel.add_choices(
            {
                "left": "shapes|What the shapes leave over of each sample",
                "joint": f"joint|{DEFINITIONS['joint']}",
                "t2": f"T²|{DEFINITIONS['t2']}",
                "q": f"Q|{DEFINITIONS['q']}",
            },
            self._set_below,
        )
        for strip in (self.falls, self.difference, self.amounts, self.shapes):
            strip.setMinimumHeight(40)
        self._share_axes()
        for strip in (self.falls, self.difference):
            attend_strip(strip, self.desk.selection)
        for plane in (self.plane, self.leftover):
            attend_plane(plane, self.desk.selection)

    def _share_axes(self) -> None:
        """One axis of channels for what stands under each other, and one of positions."""
        for upper in (self.picture, self.falls, self.amounts):
            upper.hide_figures()
        self._axes = (
            OneAxis((self.picture, self.falls, self.difference)),
            OneAxis((self.amounts, self.leftover)),
        )

    def layout(self) -> QVBoxLayout:
        """The panels under each other."""
        column = QVBoxLayout()
        column.setSpacing(7)
        for panel, weight in (
            (self.picture_panel, 82),
            (self.difference_panel, 98),
            (self.amounts_panel, 82),
            (self.leftover_panel, 0),
        ):
            column.addWidget(panel, weight)
        return column

    @property
    def views(self) -> tuple[SeriesView, StripView, StripView, StripView, PlaneView, StripView, PlaneView]:
        """Everything that draws a chart."""
        return (
            self.picture, self.falls, self.difference, self.amounts, self.plane, self.shapes, self.leftover,
        )  # fmt: skip

    # From the moment to the views

    def show_picture(self) -> None:
        """The series, or its waterfall."""
        series, state = self.work.series, self.desk.moment.state
        self.kind_menu.setText(f"{'waterfall' if self.kind == 'falls' else KINDS[self.kind].words} ▾")
        if self.kind == "falls":
            chart = self._memo.get("falls", (series, colouring_of(state)), lambda: waterfall(state, series))
            self.picture_panel.put(self.desk, self.falls, chart)
            return
        k = 0
        if series is not None and self.kind in ("rebuilt", "away"):
            k = min(series.found.model.k, len(series.components.verdicts))
        chart = self._memo.get("picture", (series, self.kind, k), lambda: picture(series, self.kind, k))
        self.picture_panel.put(self.desk, self.picture, chart)

    def show_handles(self, hands: Hands) -> None:
        """a and b and their difference."""
        series = self.work.series
        if series is not None:
            positions = hands.a.position(series), hands.b.position(series)
            words = f"a  {hands.a.said(series)}", f"b  {hands.b.said(series)}"
            self.picture.show_handles(positions, words)
        reference = None
        if series is not None:
            try:
                reference = (hands.wanted.name, reference_of(series, hands.wanted))
            except InputError:
                reference = None
        chart = difference(
            series, hands.a, hands.b, reference, hands.degree, hands.kept, self.overlay, hands.signed
        )
        show(self.desk, self.difference_panel, self.difference, chart, self.desk.moment.state)
        centre, sd = hands.wanted.peak
        reach = SIDES * sd
        self.difference.show_regions(
            ((centre - reach, centre + reach),) if hands.wanted.kind == "peak" else ()
        )

    def show_amounts(self, hands: Hands) -> None:
        """Amounts or shapes, and what is left over; mixed variables have none."""
        self.amounts_panel.setVisible(self.work.series is None or self.work.series.has_amounts)
        series, found, state = self.work.series, self.work.mixture, self.desk.moment.state
        ends: tuple[float, ...] = ()
        if series is not None and found is not None:
            ends = (hands.a.position(series), hands.b.position(series))
        if self.shown == "amounts":
            chart, view = amounts_chart.amounts(series, found, ends), self.amounts
        elif self.shown == "shapes":
            chart, view = amounts_chart.shapes(series, found), self.shapes
        else:
            chart, view = amounts_chart.amounts_plane(state, series, found), self.plane
        why = self.work.why_not("amounts")
        if found is None and why:
            chart = nothing("Amounts", why)
        key = "" if chart.lines is None else key_of(chart)
        self.amounts_panel.put(self.desk, view, chart, key)
        if self.shown == "amounts":
            self.amounts_panel.x_title.hide()  # it stands under what is left over
        self._show_below()

    def _show_below(self) -> None:
        """What is left over, or the distances to the model with the watched samples hollow."""
        series, state = self.work.series, self.desk.moment.state
        kind = (
            "joint" if self.lower == "left" and series is not None and not series.has_amounts else self.lower
        )
        self.below[kind].setChecked(True)
        if kind == "left" or series is None:
            chart = amounts_chart.leftover(state, series, self.work.mixture)
        else:
            inputs = (series, kind, self.desk.moment.checked, self.aside.now())
            chart = self._memo.get("below", inputs, lambda: self._distances(series, kind))
        show(self.desk, self.leftover_panel, self.leftover, chart, state)

    def _distances(self, series: Series, kind: str) -> Chart:
        moment, found = self.desk.moment, series.found
        ghosts = distance_ghosts(moment.state, found, ("order", kind), False, None, self.aside.now())
        chart = replace(run_order(moment.state, found, kind), ghosts=ghosts)
        return along(chart, series.order, colouring_of(moment.state))

    def _set_below(self, kind: str) -> None:
        self.lower = kind
        self._show_below()

    def show_cursor(self) -> None:
        """The channel cursor."""
        look = self.desk.selection.look
        for view in (self.picture, self.falls, self.difference, self.shapes):
            view.set_cursor(look.channel)

    def emphasise(self) -> None:
        """Others stand out."""
        emphasise(self.desk, (self.falls, self.plane, self.leftover), self.desk.moment.state)

    # From the person

    def _fill_kinds(self, menu: ChoiceMenu) -> None:
        series = self.work.series
        for key, kind in KINDS.items():
            if series is None or series.found.treated.axis.ordered or key not in ("rebuilt", "away"):
                menu.add(kind.words, self.kind == key, lambda key=key: self.choose_kind(key))  # type: ignore[misc]
        menu.line()
        menu.add("waterfall", self.kind == "falls", lambda: self.choose_kind("falls"))

    def choose_kind(self, kind: str) -> None:
        """What the picture shows."""
        self.kind = kind
        self.show_picture()

    def _set_shown(self, kind: str) -> None:
        self.shown = kind
        self.show_amounts(self.hands())

    def _set_overlay(self, on: bool) -> None:
        self.overlay = on
        self.show_handles(self.hands())


def key_of(chart: Chart) -> str:
    """The lines in their colours, and what is said of them, as rich text."""
    names = () if chart.lines is None else chart.lines.names
    words = [
        f'<span style="color:{colours.class_colour(code)}">━</span> {escaped(name)}'
        for code, name in enumerate(names)
    ]
    return "&nbsp;&nbsp;".join([*words, f"<span>{escaped(chart.note)}</span>"])
