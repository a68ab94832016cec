"""Where two classes differ: both means on one strip, their difference with its band on another."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from functools import partial
from typing import Any

from PySide6.QtWidgets import QStackedWidget, QVBoxLayout, QWidget

from scutcher.charts.class_differences import class_strips, difference_strip, strongest
from scutcher.charts.description import Chart
from scutcher.charts.groups import no_classes
from scutcher.charts.memo import ChartMemo
from scutcher.core.groups.mean_differences import Difference
from scutcher.core.progress import Watch
from scutcher.desk.context import Desk
from scutcher.desk.kept_behind import AT_ONCE
from scutcher.desk.pages.showing import show
from scutcher.desk.painting.strip import StripView
from scutcher.desk.widgets.figures_table import FiguresTable
from scutcher.desk.widgets.gestures import attend_strip
from scutcher.desk.widgets.panel import ChartPanel
from scutcher.study.evaluation.grouping import Grouping

SLOT = "groups difference"
KINDS = {
    "difference": "difference|One class's mean less the other's; 95 % band: replicates resampled together",
    "deviations": "in SD|The same in standard deviations within the two classes",
    "ratio": "F|Between over within variance of all classes at each variable",
    "list": "list|The variables that differ most, to sort and click",
}
BAND = "Difference of the class means; band: 95 %, groups of replicates resampled 1,000 times within classes"


class DifferencePanels(QWidget):
    """Both strips share one axis, one zoom, one cursor."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self.desk = desk
        self.less_mean, self.kind = True, "difference"
        self._shown: tuple[Grouping, tuple[int, int] | None] | None = None
        self._wanted: object = None
        self._memo = ChartMemo()
        self._kept: tuple[Grouping, tuple[int, int], Difference] | None = None

    def build(self) -> Iterator[None]:
        """The strip of the means, then that of the difference."""
        self.means_view = StripView()
        self.means_panel = ChartPanel(self.means_view, "Means of two classes, treated", bottom_title=False)
        yield
        self.view = StripView()
        self.table = FiguresTable(["variable", "difference", "from", "to", "in SD", "F of all"], range(1, 6))
        self.table.setSortingEnabled(True)
        self.table.itemSelectionChanged.connect(self._on_variable)
        self.stack = QStackedWidget()
        for widget in (self.view, self.table):
            self.stack.addWidget(widget)
        self.panel = ChartPanel(self.stack, BAND)
        for strip in (self.means_view, self.view):
            strip.setMinimumHeight(50)
            attend_strip(strip, self.desk.selection)
        self.means_view.hide_figures()
        self.means_view.ground.setXLink(self.view.ground)
        self.mean_switch = self.means_panel.add_switch(
            "less mean|Both less the mean of all samples, so that small differences show", self._set_less_mean
        )
        self.mean_switch.setChecked(True)
        self.kinds = self.panel.add_choices(KINDS, self._set_kind)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.setSpacing(7)
        whole.addWidget(self.means_panel, 165)
        whole.addWidget(self.panel, 180)

    @property
    def views(self) -> tuple[StripView, StripView]:
        """Both strips."""
        return self.means_view, self.view

    def show_two(self, grouping: Grouping, two: tuple[int, int] | None) -> None:
        """Two classes; None where there is one only."""
        self._shown = (grouping, two)
        if two is None:
            self.show_nothing("There is one class only.")
            return
        picked = self.desk.selection.look.picked
        if grouping.found.treated.values.size > AT_ONCE:
            self._ask_charts(grouping, two, picked)
            return
        inputs = (grouping, two, self.less_mean, picked)
        means = self._memo.get("means", inputs, partial(class_strips, *inputs))
        self._draw(means, self._difference(grouping, two))

    def _draw(self, means: Chart, found: Difference) -> None:
        """Both strips, or the list in place of the second."""
        assert self._shown is not None and self._shown[1] is not None
        grouping, two, state = self._shown[0], self._shown[1], self.desk.moment.state
        show(self.desk, self.means_panel, self.means_view, means, state)
        listed = self.kind == "list"
        self.stack.setCurrentIndex(1 if listed else 0)
        if listed:
            self._show_list(grouping, two, found)
        else:
            inputs = (grouping, two, found, self.kind)
            chart = self._memo.get("difference", inputs, partial(difference_strip, *inputs))
            show(self.desk, self.panel, self.view, chart, state)

    def show_nothing(self, words: str = "") -> None:
        """There are not two classes."""
        chart = no_classes("Where two classes differ")
        chart = replace(chart, empty=words) if words else chart
        self.stack.setCurrentIndex(0)
        for panel, view in ((self.means_panel, self.means_view), (self.panel, self.view)):
            show(self.desk, panel, view, chart, self.desk.moment.state)

    def _difference(self, grouping: Grouping, two: tuple[int, int]) -> Difference:
        """Its band comes behind: until then there is none."""
        kept = self._kept
        if kept is None or kept[0] is not grouping or kept[1] != two:
            self._kept = kept = (grouping, two, grouping.difference(*two, draws=0))
            self._ask_band(grouping, two)
        return kept[2]

    def _ask_charts(self, grouping: Grouping, two: tuple[int, int], picked: tuple[int, ...]) -> None:
        """Of many values everything behind; what was drawn stays until then."""
        wanted, kept = (grouping, two, self.less_mean, picked), self._kept
        known = kept[2] if kept is not None and kept[0] is grouping and kept[1] == two else None
        self._wanted = wanted

        def work(watch: Watch) -> tuple[Chart, Difference]:
            _ = grouping.ratios
            return class_strips(grouping, two, wanted[2], picked), known or grouping.difference(*two)

        def done(answer: Any) -> None:
            if wanted is not self._wanted:
                return
            if isinstance(answer, Exception):
                raise answer
            self._kept = (grouping, two, answer[1])
            self._draw(*answer)

        self.desk.live.ask(f"{SLOT} of many", None, work, done)

    def _ask_band(self, grouping: Grouping, two: tuple[int, int]) -> None:
        def done(answer: Any) -> None:
            kept = self._kept
            if kept is None or kept[0] is not grouping or kept[1] != two:
                return  # others are looked at by now
            if isinstance(answer, Exception):
                raise answer
            self._kept = (grouping, two, answer)
            self._again()

        self.desk.live.ask(SLOT, None, lambda watch: grouping.difference(*two), done)

    def _show_list(self, grouping: Grouping, two: tuple[int, int], found: Difference) -> None:
        title = f"{grouping.name(two[0])} less {grouping.name(two[1])}"
        self.panel.describe(Chart(title=title, note="most SD within first; click a header to sort"))
        self.panel.empty.hide()
        self.table.setSortingEnabled(False)
        self.table.show_rows(strongest(grouping, found))
        self.table.setSortingEnabled(True)

    def _on_variable(self) -> None:
        items = self.table.selectedItems()
        if items and self._shown is not None:
            axis = self._shown[0].found.treated.axis
            names = [axis.name(place) for place in range(len(axis))]
            place = names.index(self.table.cell(items[0].row(), 0).text())
            self.desk.selection.change(channel=float(axis.places()[place]))

    def _again(self) -> None:
        if self._shown is not None:
            self.show_two(*self._shown)

    def _set_less_mean(self, on: bool) -> None:
        self.less_mean = on
        self._again()

    def _set_kind(self, kind: str) -> None:
        self.kind = kind
        self._again()
