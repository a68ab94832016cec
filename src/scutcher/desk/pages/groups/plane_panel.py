"""The plane of the Groups page: which two components, and what is drawn over them."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from functools import partial
from typing import Any

from msgspec.structs import replace as replace_fields
from PySide6.QtWidgets import QVBoxLayout, QWidget

from scutcher.charts.emphasis import colouring_of
from scutcher.charts.groups import GroupsLook, directions_plane, group_plane, no_classes
from scutcher.charts.memo import ChartMemo
from scutcher.core.groups.class_separation import between_within
from scutcher.core.words import shown
from scutcher.desk.actions.class_clicks import ClassClicks
from scutcher.desk.context import Desk
from scutcher.desk.pages.showing import show
from scutcher.desk.painting.plane import PlaneView
from scutcher.desk.widgets.choice_menu import ChoiceMenu
from scutcher.desk.widgets.gestures import attend_plane
from scutcher.desk.widgets.legend import LegendRow
from scutcher.desk.widgets.panel import ChartPanel
from scutcher.study.document.commands.recipe import GroupBy
from scutcher.study.evaluation.grouping import Grouping, HeldOutGroups

CLEAREST = "where the classes lie farthest apart"
DIRECTIONS = "the two directions that separate them best, held out"
LEVELS = (0.5, 0.8, 0.9, 0.95, 0.99)
REGIONS = {
    "ellipse": "ellipse of each class",
    "hull": "hull of each class",
    "density": "where each class is dense",
    "none": "no regions",
}
SWITCHES = {
    "lines": "centres joined",
    "flags": "in several regions or in none",
    "replicates": "replicates joined",
}
MEANING = (
    "Scores of the samples in the model. Regions: the class's own mean and covariance at a chosen coverage. "
    "Membership is judged in all components that are kept, not on this plane."
)


class PlanePanel(QWidget):
    """`changed` is called when another plane is looked at."""

    def __init__(self, desk: Desk, changed: Callable[[], None]) -> None:
        super().__init__()
        self.desk, self._changed = desk, changed
        self.clearest, self.directions, self.look = True, False, GroupsLook()
        self.held: HeldOutGroups | None = None
        self._memo = ChartMemo()
        self._shown: tuple[Grouping, tuple[int, int] | None] | None = None
        self.view = PlaneView()
        attend_plane(self.view, desk.selection)
        self.panel = ChartPanel(self.view, MEANING)
        self.pair_menu = ChoiceMenu("clearest ▾", "Which two components", self._fill_pairs)
        self.look_menu = ChoiceMenu("show ▾", "Regions, lines between centres, signs", self._fill_look)
        self.panel.add_to_header(self.pair_menu)
        self.panel.add_to_header(self.look_menu)
        self.legend = LegendRow()
        self.class_clicks = ClassClicks(self.legend, desk)
        self.panel.add_below(self.legend)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.addWidget(self.panel)

    def pair(self, grouping: Grouping) -> tuple[int, int]:
        """The two components on the plane."""
        if self.clearest:
            return grouping.pair
        last = grouping.found.model.k - 1
        across, up = self.desk.selection.look.pair
        return min(across, last), min(up, last)

    def show_classes(self, grouping: Grouping, two: tuple[int, int] | None) -> None:
        """The samples with the regions of their classes."""
        self._shown = (grouping, two)
        if self.directions:
            self.pair_menu.setText("directions ▾")
            inputs: tuple[Any, ...] = (grouping, self.held, self.look, two)
            chart = self._memo.get("directions", inputs, partial(directions_plane, *inputs))
        else:
            across, up = self.pair(grouping)
            self.pair_menu.setText(f"{across + 1} × {up + 1}{', clearest' if self.clearest else ''} ▾")
            inputs = (grouping, (across, up), self.look, two)
            chart = self._memo.get("pair", inputs, partial(group_plane, *inputs))
        show(self.desk, self.panel, self.view, chart, self.desk.moment.state)
        self.show_legend(grouping)

    def show_legend(self, grouping: Grouping) -> None:
        """The classes in their colours."""
        colouring = colouring_of(self.desk.moment.state)
        if colouring.column == grouping.column.name:
            self.legend.show_colouring(colouring, self.desk.selection.look.focus)
        else:
            counts = [len(grouping.rows(code)) for code in range(len(grouping.column.levels))]
            self.legend.show_levels(grouping.column.levels, counts, None)

    def show_nothing(self) -> None:
        """There are no classes."""
        self._shown = None
        self.legend.show_levels((), [], None)
        show(self.desk, self.panel, self.view, no_classes("Scores"), self.desk.moment.state)

    def _again(self) -> None:
        if self._shown is not None:
            self.show_classes(*self._shown)
            self._changed()

    def _fill_pairs(self, menu: ChoiceMenu) -> None:
        plain = not self.directions
        menu.add(CLEAREST, self.clearest and plain, partial(self._set_kind, True, False))
        menu.add(DIRECTIONS, self.directions, partial(self._set_kind, True, True))
        menu.add("as on Inspect", not self.clearest and plain, partial(self._set_kind, False, False))
        if self._shown is None:
            return
        menu.line()
        grouping = self._shown[0]
        across, now = self.pair(grouping)
        for place, ratio in enumerate(between_within(grouping.found.model.scores, grouping.codes)):
            words = f"component {place + 1} upright: between over within {shown(ratio, '.1f')}"
            menu.add(words, now == place, partial(self._put_upright, across, place))

    def _set_kind(self, clearest: bool, directions: bool) -> None:
        self.clearest, self.directions = clearest, directions
        self._again()

    def _put_upright(self, across: int, up: int) -> None:
        """Another component on the upright axis; the level one gives way where it is the same."""
        self.clearest, self.directions = False, False
        self.desk.selection.change(pair=(across if across != up else int(up == 0), up))
        self._again()

    def _fill_look(self, menu: ChoiceMenu) -> None:
        for kind, words in REGIONS.items():
            menu.add(words, self.look.regions == kind, partial(self._take, regions=kind))
        menu.line()
        now = self.desk.study.state.recipe.groups
        for level in LEVELS:
            settings = replace_fields(now, level=level)
            words = f"regions at {shown(100 * level)} %"
            menu.add(words, now.level == level, partial(self.desk.do, GroupBy(settings)))
        menu.line()
        on = {"lines": self.look.lines, "flags": self.look.flags, "replicates": self.look.replicates}
        for field, words in SWITCHES.items():
            menu.add(words, on[field], partial(self._take, **{field: not on[field]}))

    def _take(self, **fields: object) -> None:
        self.look = replace(self.look, **fields)  # type: ignore[arg-type]
        self._again()
