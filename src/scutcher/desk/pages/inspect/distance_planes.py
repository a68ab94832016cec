"""The planes of distances on the Inspect page: T² and Q, and one of them along the order of the samples."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import Literal

from msgspec.structs import replace as replace_fields
from PySide6.QtCore import QSignalBlocker

from scutcher.charts.along import along
from scutcher.charts.definitions import DEFINITIONS
from scutcher.charts.description import Chart
from scutcher.charts.distances import distances, run_order
from scutcher.charts.emphasis import colouring_of
from scutcher.charts.memo import ChartMemo
from scutcher.charts.overlays import distance_ghosts
from scutcher.charts.sample_views import channel_run
from scutcher.desk.context import Desk
from scutcher.desk.pages.aside import AsideWork
from scutcher.desk.pages.inspect.limit_menu import LimitMenu
from scutcher.desk.pages.inspect.newcomers import NewcomersWork
from scutcher.desk.pages.showing import show
from scutcher.desk.painting.plane import PlaneView
from scutcher.desk.widgets.gestures import attend_plane
from scutcher.desk.widgets.order_title import ask_order, offer_order
from scutcher.desk.widgets.panel import ChartPanel
from scutcher.study.document.commands.recipe import LimitBy
from scutcher.study.evaluation.new_samples import AsideProjected, Newcomers
from scutcher.study.evaluation.orders import order_of
from scutcher.study.evaluation.saving import SeenAsNew, seen_as_new


class DistancePlanes:
    """`refresh` draws them as the moment is."""

    def __init__(self, desk: Desk, newcomers: NewcomersWork, aside: AsideWork) -> None:
        self.desk, self._newcomers, self._aside = desk, newcomers, aside
        self.run_kind, self.log = "q", False
        self._memo = ChartMemo()
        self.view, self.run_view = PlaneView(), PlaneView(mark_size=6.0)
        self.run_view.ground.setMouseEnabled(x=True, y=False)
        self.views = (self.view, self.run_view)
        for plane in self.views:
            attend_plane(plane, desk.selection)
        self.panel = ChartPanel(self.view, f"{DEFINITIONS['t2']}\n\n{DEFINITIONS['q']}")
        self.run_panel = ChartPanel(self.run_view, DEFINITIONS["q"])
        self._make_choices()

    def _make_choices(self) -> None:
        self.new_switch = self.panel.add_switch(
            "as new|Each sample's distance to a model that has not seen it, against limits for new samples",
            self.show_as_new,
        )
        self.limit_menu = LimitMenu(self.desk)
        self.panel.add_to_header(self.limit_menu)
        self.panel.add_switch("log|Both axes logarithmic", self._set_log)
        kinds = (("q", "Q"), ("t2", "T²"), ("joint", "joint"))
        self.run_panel.add_choices(
            {key: f"{word}|{DEFINITIONS[key]}" for key, word in kinds}
            | {"channel": "channel|The raw values of the channel under the cursor, over all samples"},
            self.set_run,
        )
        self.run_panel.x_title.clicked.connect(lambda: ask_order(self.run_panel.x_title, self.desk))

    def refresh(self) -> None:
        """Draw both as the moment is."""
        for part in self.parts():
            part()

    def parts(self) -> tuple[Callable[[], None], ...]:
        """What draws them, one after the other."""
        return self._show_plane, self._show_run

    def _beside(self) -> tuple[Newcomers | None, AsideProjected | None]:
        """New samples, and those that are set aside, as far as they are projected."""
        return self._newcomers.now(), self._aside.now()

    def _common(self) -> tuple[object, ...]:
        """What both are drawn from."""
        found, state, checked = self.desk.moment.found, self.desk.moment.state, self.desk.moment.checked
        rows, limits = found and found.usable.rows, found and found.recipe.limits
        held = checked and checked.validation
        return state.table, colouring_of(state), found and found.model, rows, limits, held, *self._beside()

    def _seen(self) -> SeenAsNew | None:
        """The distances of samples as if they were new, where those are asked for."""
        found = self.desk.moment.found
        if found is None or found.recipe.limits.distances != "held-out":
            return None
        return seen_as_new(found, self.desk.moment.checked)

    def _show_plane(self) -> None:
        found, state = self.desk.moment.found, self.desk.moment.state
        with QSignalBlocker(self.new_switch):
            self.new_switch.setChecked(state.recipe.limits.distances == "held-out")

        def plane() -> Chart:
            chart = distances(state, found, self.log, self._seen())
            if found is None:
                return chart
            ghosts = distance_ghosts(state, found, ("t2", "q"), self.log, *self._beside())
            return replace(chart, ghosts=ghosts)

        chart = self._memo.get("plane", (*self._common(), self.log), plane)
        show(self.desk, self.panel, self.view, chart, state)

    def _show_run(self) -> None:
        found, state, look = self.desk.moment.found, self.desk.moment.state, self.desk.selection.look
        order = order_of(state) if look.along else None

        def run() -> Chart:
            if self.run_kind == "channel":
                return along(channel_run(state, found, look.channel), order, colouring_of(state))
            chart = run_order(state, found, self.run_kind, self._seen())
            if found is None:
                return chart
            ghosts = distance_ghosts(state, found, ("order", self.run_kind), False, *self._beside())
            return along(replace(chart, ghosts=ghosts), order, colouring_of(state))

        channel = look.channel if self.run_kind == "channel" else None
        chart = self._memo.get("run", (*self._common(), self.run_kind, channel, order), run)
        show(self.desk, self.run_panel, self.run_view, chart, state)
        offer_order(self.run_panel.x_title, state)

    def show_as_new(self, on: bool) -> None:
        """Show the distances of the fit, or those of samples as if they were new."""
        limits = self.desk.study.state.recipe.limits
        wanted: Literal["fitted", "held-out"] = "held-out" if on else "fitted"
        self.desk.do(LimitBy(replace_fields(limits, distances=wanted)))

    def _set_log(self, on: bool) -> None:
        self.log = on
        self.refresh()

    def set_run(self, kind: str) -> None:
        """What stands along the order: "q", "t2", "joint" or "channel"."""
        self.run_kind = kind
        self.run_panel.title.setToolTip(DEFINITIONS[kind])
        self.refresh()
