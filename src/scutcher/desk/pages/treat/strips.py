"""The strips of the Treat page: the data before a step, after it, and where classes differ."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from scutcher.charts.definitions import DEFINITIONS
from scutcher.charts.description import Chart
from scutcher.charts.signals import stage_name
from scutcher.charts.treatment_effects import class_ratio, inside_of, stage_chart, with_inside
from scutcher.core.errors import InputError
from scutcher.core.treatments.base import Inside
from scutcher.desk.context import Desk
from scutcher.desk.deferred import InTurns
from scutcher.desk.kept_behind import Behind
from scutcher.desk.pages.showing import View, show
from scutcher.desk.pages.treat.edits import TreatEdits, regions_field
from scutcher.desk.painting.strip import StripView
from scutcher.desk.widgets.gestures import attend_strip
from scutcher.desk.widgets.panel import ChartPanel
from scutcher.study.document.state import State
from scutcher.study.evaluation.evaluation import Staged
from scutcher.study.moment import Moment

FEW, MANY, AT_ONCE = 150_000, 2_000_000, 5e7
"""Values up to which what is inside a step takes about a frame, or many with so few multiplications."""


def newest(desk: Desk, shown: Moment, place: int) -> tuple[State, Staged | None]:
    """What to show tables of, and its state: those of a step are treated before their model is fitted."""
    found, coming = shown.found, desk.live.coming
    steps = 0 if found is None else len(found.recipe.treat)
    if found is None or coming is None or coming.staged is None or not 0 <= place < steps:
        return shown.state, found
    same_steps = len(coming.recipe.treat) == steps and coming.staged.table.ids == found.table.ids
    return (coming.state, coming.staged) if same_steps else (shown.state, found)


class TreatStrips:
    """`refresh` draws them of a moment, at a step.

    Parameters
    ----------
    told : called when what the step shows of its work has come from behind
    """

    def __init__(self, desk: Desk, told: Callable[[], object]) -> None:
        self.desk, self._told = desk, told
        self.means, self.before_too = False, False
        self._shown, self._place = desk.moment, -1
        self._inside = Behind[Inside | None](desk, "inside of a step", self._on_inside)
        self.before_view, self.after_view, self.ratio_view = StripView(), StripView(), StripView()
        self.views = (self.before_view, self.after_view, self.ratio_view)
        self.before_panel = ChartPanel(self.before_view, DEFINITIONS["treat_before"], bottom_title=False)
        self.after_panel = ChartPanel(self.after_view, DEFINITIONS["treat_after"])
        self.ratio_panel = ChartPanel(self.ratio_view, DEFINITIONS["class_ratio"])
        for strip in self.views:
            strip.setMinimumHeight(60)
            attend_strip(strip, desk.selection)
        self.edits = TreatEdits(desk, self.before_view)
        self._turns = InTurns(self.before_panel)
        self.before_panel.add_choices(
            {"samples": "samples|Every sample", "means": "class means|One mean per class, ± one SD"},
            lambda key: self.set_means(key == "means"),
        )
        self.range_switch = self.before_panel.add_switch(
            "drag regions|Drag on the picture to set this step's regions or its reference peak; the edges of "
            "a region can be dragged too",
            lambda on: self.before_view.set_ranging(on),
        )
        self.ratio_panel.add_switch("before too|The ratio before this step as well", self.set_before)

    def refresh(self, shown: Moment, place: int) -> None:
        """Draw them.

        Parameters
        ----------
        place : the step in the recipe; −1: the data; the number of steps: the scaling
        """
        for part in self.parts(shown, place):
            part()

    def parts(self, shown: Moment, place: int) -> tuple[Callable[[], None], ...]:
        """The same, a function for each view, which draws what is newest when it is called."""
        self._shown, self._place = shown, place
        return self._show_before, self._show_after, self._show_ratio

    def _newest(self) -> tuple[State, Staged | None, int]:
        return *newest(self.desk, self._shown, self._place), self._place

    def _show_before(self) -> None:
        state, found, place = self._newest()
        stage = max(place, 0)
        before = stage_chart(state, found, stage, self.means, "Before", plain_name(state, stage, found))
        if found is not None and not self.means:
            before = with_inside(before, found, self.inside(found, place), self.desk.selection.look.picked)
        self._show(self.before_panel, self.before_view, before)
        self.before_view.show_regions(_regions(found, place))

    def _show_after(self) -> None:
        state, found, place = self._newest()
        note = plain_name(state, place + 1, found) if place >= 0 else "the same: nothing is done here yet"
        after = stage_chart(state, found, place + 1, self.means, "After", note)
        self._show(self.after_panel, self.after_view, after)

    def _show_ratio(self) -> None:
        state, found, place = self._newest()
        self._show(self.ratio_panel, self.ratio_view, class_ratio(state, found, place, self.before_too))

    def inside(self, found: Staged | None, place: int) -> Inside | None:
        """What the step shows of its work, since a baseline takes a fit; of many values it comes later."""
        if found is None or not _is_step(found, place):
            return None
        step, values = found.recipe.treat[place], found.stages[place].values
        inputs = (place, values, found.stages[place + 1].values, step.on, step.method, repr(step.parameters))
        few_steps = step.treatment.cost * values.size <= AT_ONCE
        light = values.size <= FEW or (few_steps and values.size <= MANY)
        return self._inside.of(inputs, lambda watch: _inside_of(found, place), light)

    def _on_inside(self) -> None:
        self._show_before()
        self._told()

    def let_drag(self, drags: bool) -> None:
        """Whether the step has something that is dragged on the picture."""
        self.range_switch.setVisible(drags)
        if not drags and self.range_switch.isChecked():
            self.range_switch.setChecked(False)

    def show_cursor(self) -> None:
        """The channel and the line under the pointer."""
        look = self.desk.selection.look
        for strip in self.views:
            strip.set_cursor(look.channel)
            strip.hover_line(look.hovered)

    def set_means(self, on: bool) -> None:
        """Draw the means of the classes in place of every sample."""
        self.means = on
        self._turns.run((self._show_before, self._show_after), self.desk.has_much)

    def set_before(self, on: bool) -> None:
        """Draw the ratio before the step as well."""
        self.before_too = on
        self._show_ratio()

    def _show(self, panel: ChartPanel, view: View, chart: Chart) -> None:
        show(self.desk, panel, view, chart, self._shown.state)


def _inside_of(found: Staged, place: int) -> Inside | None:
    """What can be shown of a step."""
    try:
        return inside_of(found, place)
    except InputError:
        return None


def _is_step(found: Staged, place: int) -> bool:
    return 0 <= place < len(found.recipe.treat)


def _regions(found: Staged | None, place: int) -> tuple[tuple[float, float], ...]:
    """The regions of the step on the picture: its own, or the window of its reference peak."""
    if found is None or not _is_step(found, place):
        return ()
    parameters: Any = found.recipe.treat[place].parameters
    name = regions_field(parameters)
    if name:
        return tuple(getattr(parameters, name))
    if hasattr(parameters, "half_width") and hasattr(parameters, "position"):
        at, half = parameters.position, parameters.half_width
        return ((at - half, at + half),)
    return ()


def plain_name(state: State, stage: int, found: Staged | None) -> str:
    """The name of a knot beside the words Before and After."""
    return stage_name(state, stage, found).removeprefix("after ")
