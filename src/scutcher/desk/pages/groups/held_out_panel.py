"""Does it hold: the share right of left-out samples, or the samples along the line of two centres."""

from __future__ import annotations

from functools import partial

from msgspec.structs import replace as replace_fields
from PySide6.QtWidgets import QStackedWidget, QVBoxLayout, QWidget

from scutcher.charts.description import Chart
from scutcher.charts.groups import no_classes
from scutcher.charts.held_out_groups import along_chart, dip_along, held_out_run, held_out_words
from scutcher.core.groups.dip import Dip
from scutcher.desk.actions.components import keep_components, preview_components
from scutcher.desk.context import Desk
from scutcher.desk.kept_behind import Behind
from scutcher.desk.pages.groups.judging import Judging
from scutcher.desk.pages.showing import show
from scutcher.desk.painting.handle_plot import HandlePlot
from scutcher.desk.painting.plane import PlaneView
from scutcher.desk.widgets.choice_menu import ChoiceMenu
from scutcher.desk.widgets.gestures import attend_plane
from scutcher.desk.widgets.panel import ChartPanel
from scutcher.study.document.commands.recipe import GroupBy
from scutcher.study.evaluation.grouping import Grouping

METHODS = {
    "nearest-centre": "nearest centre (SD within classes)",
    "nearest-neighbours": "nearest neighbours",
    "discriminant": "linear discriminant (sizes as priors)",
}
SHORT = {
    "nearest-centre": "nearest centre",
    "nearest-neighbours": "neighbours",
    "discriminant": "discriminant",
}
COUNTS = (1, 3, 5, 7, 9, 15)
MEANING = (
    "Share of left-out samples that find their class, everything learned again without them, replicates "
    "together. Bars: one standard error over the segments. Thin: each class. Drag the line to keep so many."
)


class HeldOutPanel(QWidget):
    """The handle is the number of components, as everywhere."""

    def __init__(self, desk: Desk, judging: Judging) -> None:
        super().__init__()
        self.desk, self.judging = desk, judging
        self.measured: str | None = None
        self._shown: tuple[Grouping, tuple[int, int] | None] | None = None
        self._dip: Behind[Dip | None] = Behind(desk, "groups dip", self._again)
        self.curve, self.view = HandlePlot(), PlaneView()
        self.curve.setMinimumHeight(90)
        self.curve.moving.connect(partial(preview_components, desk))
        self.curve.moved.connect(partial(keep_components, desk))
        attend_plane(self.view, desk.selection)
        self.stack = QStackedWidget()
        for widget in (self.curve, self.view):
            self.stack.addWidget(widget)
        self.panel = ChartPanel(self.stack, MEANING)
        self.along = self.panel.add_switch(
            "line|Two groups or a gradient cut in two: the samples along the line of the two centres",
            self._again,
        )
        self.properties = ChoiceMenu("against ▾", "What is held against the line", self._fill_properties)
        self.methods = ChoiceMenu("nearest centre ▾", "How a left-out sample is assigned", self._fill_methods)
        for menu in (self.properties, self.methods):
            self.panel.add_to_header(menu)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.addWidget(self.panel)

    def show_held(self, grouping: Grouping, two: tuple[int, int] | None) -> None:
        """What was found out of a grouping."""
        self._shown, held = (grouping, two), self.judging.held
        along = self.along.isChecked() and held is not None and two is not None
        self.stack.setCurrentIndex(1 if along else 0)
        self.methods.setVisible(not along)
        self.properties.setVisible(along)
        if along and held is not None and two is not None:
            dip = self._dip.of((held.assignment, two), partial(dip_along, grouping, held, two))
            chart = along_chart(grouping, held, two, self._property(grouping), dip)
            show(self.desk, self.panel, self.view, chart, self.desk.moment.state)
            return
        run = held_out_run(grouping, held)
        self.curve.show_run(run)
        waiting = self.judging.trouble or "left-out samples are being assigned …"
        note = "" if held is None else held_out_words(held)
        self.panel.describe(
            Chart(
                "Held-out share right", note, "components", "share", empty="" if run is not None else waiting
            )
        )
        self.panel.empty.setVisible(run is None)
        settings = grouping.settings
        count = f"{settings.neighbours} " if settings.method == "nearest-neighbours" else ""
        self.methods.setText(f"{count}{SHORT[settings.method]} ▾")

    def show_nothing(self) -> None:
        """There are no classes."""
        self._shown = None
        self.stack.setCurrentIndex(0)
        self.curve.show_run(None)
        self.panel.describe(no_classes("Held-out share right"))

    def _again(self, on: bool = False) -> None:
        if self._shown is not None:
            self.show_held(*self._shown)

    def _property(self, grouping: Grouping) -> str:
        """The property that is held against the line: the one chosen, or the first."""
        names = [column.name for column in grouping.found.treated.properties]
        if self.measured is not None and self.measured in (*names, ""):
            return self.measured
        return names[0] if names else ""

    def _fill_properties(self, menu: ChoiceMenu) -> None:
        if self._shown is None:
            return
        grouping = self._shown[0]
        now = self._property(grouping)
        for column in grouping.found.treated.properties:
            name = column.name
            menu.add(column.header, now == name, partial(self._set_measured, name))
        menu.add("run order", now == "", lambda: self._set_measured(""))

    def _set_measured(self, name: str) -> None:
        self.measured = name
        self._again()

    def _fill_methods(self, menu: ChoiceMenu) -> None:
        now = self.desk.study.state.recipe.groups
        for method, words in METHODS.items():
            wanted = replace_fields(now, method=method)
            menu.add(words, now.method == method, partial(self.desk.do, GroupBy(wanted)))
        menu.line()
        for count in COUNTS:
            wanted = replace_fields(now, neighbours=count)
            words = f"{count} neighbour{'s' if count > 1 else ''}"
            menu.add(words, now.neighbours == count, partial(self.desk.do, GroupBy(wanted)))
