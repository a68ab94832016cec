"""The Inspect page: signals, loadings, residuals and distances on strips; scores and distances on planes."""

from __future__ import annotations

from dataclasses import replace
from typing import Literal

import numpy as np
from msgspec.structs import replace as replace_fields
from PySide6.QtCore import QPoint, QSignalBlocker, QTimer
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from scutcher.charts import colours
from scutcher.charts.along import along
from scutcher.charts.definitions import DEFINITIONS
from scutcher.charts.description import Chart
from scutcher.charts.distances import distances, run_order
from scutcher.charts.emphasis import colouring_of
from scutcher.charts.memo import ChartMemo
from scutcher.charts.overlays import distance_ghosts, with_overlays
from scutcher.charts.page_findings.inspect import finding
from scutcher.charts.sample_views import channel_run
from scutcher.charts.scores import scores, usable_pair
from scutcher.charts.treatment_effects import moved
from scutcher.core.errors import InputError
from scutcher.desk.actions.class_clicks import ClassClicks
from scutcher.desk.context import Desk, follow
from scutcher.desk.deferred import Soon
from scutcher.desk.pages.aside import AsideWork
from scutcher.desk.pages.declaration import PageView
from scutcher.desk.pages.inspect.limit_menu import LimitMenu
from scutcher.desk.pages.inspect.questions import Questions
from scutcher.desk.pages.inspect.score_menu import ScoreMenu
from scutcher.desk.pages.inspect.strips import InspectStrips
from scutcher.desk.pages.showing import View, emphasise, show
from scutcher.desk.painting.plane import PlaneView
from scutcher.desk.widgets.finding import Finding, under
from scutcher.desk.widgets.gestures import attend_plane
from scutcher.desk.widgets.legend import ColumnChooser, LegendRow, colour_columns
from scutcher.desk.widgets.order_title import ask_order, offer_order
from scutcher.desk.widgets.panel import ChartPanel
from scutcher.study.document.commands.classes import ColourBy
from scutcher.study.document.commands.recipe import LimitBy
from scutcher.study.evaluation.evaluation import Evaluation
from scutcher.study.evaluation.new_samples import Newcomers, newcomers
from scutcher.study.evaluation.orders import order_of
from scutcher.study.evaluation.saving import seen_as_new
from scutcher.study.evaluation.stability import stability_of

MOVING = 2500
"""Milliseconds for which it is shown how samples moved when others were set aside."""

SHOWN = {"evaluation", "state", "trouble", "newcomers"}
"""What the page shows of the live model; validation and progress are on other pages."""


class InspectPage(PageView):
    """Reads the moment; tells the study nothing but through commands; the views never talk to each other."""

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.desk = desk
        self.run_kind, self.log = "q", False
        self._memo = ChartMemo()
        self._found: Evaluation | None = None
        self._former: Evaluation | None = None
        self._projected: tuple[object, object, object, Newcomers | None] | None = None
        self._settled = QTimer(self)
        self._settled.setSingleShot(True)
        self._settled.setInterval(MOVING)
        self._settled.timeout.connect(self._forget_former)
        self.strips = InspectStrips(desk)
        self.aside = AsideWork(desk, "inspect set aside", self._on_aside)
        self._make_planes()
        self.questions = Questions(
            desk, self, self.scores_panel, self.strips.signals_panel, self._refreshed_newcomers
        )
        self._arrange()
        self.redraw = Soon(self.refresh, self)
        follow(self, desk.live, self._on_live)
        follow(self, desk.selection, self._on_selection)
        self.refresh()

    # What is on the page

    def _make_planes(self) -> None:
        self.scores_view, self.distances_view = PlaneView(), PlaneView()
        self.run_view = PlaneView(mark_size=6.0)
        self.run_view.ground.setMouseEnabled(x=True, y=False)
        self.planes = (self.scores_view, self.distances_view, self.run_view)
        self.scores_panel = ChartPanel(
            self.scores_view, f"{DEFINITIONS['scores']} Click a title to change the component."
        )
        self.distances_panel = ChartPanel(self.distances_view, f"{DEFINITIONS['t2']}\n\n{DEFINITIONS['q']}")
        self.run_panel = ChartPanel(self.run_view, DEFINITIONS["q"])
        for plane in self.planes:
            attend_plane(plane, self.desk.selection)
        self.chooser = ColumnChooser()
        self.chooser.column_chosen.connect(lambda column: self.desk.do(ColourBy(column)))
        self.scores_panel.add_to_header(self.chooser)
        self.score_menu = ScoreMenu(lambda overlays: self._show_scores(), self._label_columns)
        self.scores_panel.add_to_header(self.score_menu)
        self.scores_panel.add_choices(
            {
                "box": "box|Drag to pick with a rectangle; Shift adds, Ctrl toggles, Esc clears",
                "lasso": "lasso|Drag to pick with a free line; Shift adds, Ctrl toggles, Esc clears",
                "probe": "probe|Drag a point over the plane: the signals strip shows what it stands for",
            },
            self._set_lasso,
        )
        self.scores_view.probed.connect(self.strips.set_probe)
        self.new_switch = self.distances_panel.add_switch(
            "as new|Each sample's distance to a model that has not seen it, against limits for new samples",
            self._show_as_new,
        )
        self.limit_menu = LimitMenu(self.desk)
        self.distances_panel.add_to_header(self.limit_menu)
        self.distances_panel.add_switch("log|Both axes logarithmic", self._set_log)
        self.run_panel.add_choices(
            {
                key: f"{word}|{DEFINITIONS[key]}"
                for key, word in (("q", "Q"), ("t2", "T²"), ("joint", "joint"))
            }
            | {"channel": "channel|The raw values of the channel under the cursor, over all samples"},
            self._set_run,
        )
        self.run_panel.x_title.clicked.connect(lambda: ask_order(self.run_panel.x_title, self.desk))
        self.legend = LegendRow()
        self.class_clicks = ClassClicks(self.legend, self.desk)
        self.scores_panel.add_below(self.legend)

    def _arrange(self) -> None:
        left, right = QVBoxLayout(), QVBoxLayout()
        for column in (left, right):
            column.setSpacing(7)
        for panel, share in (
            (self.strips.signals_panel, 200),
            (self.strips.loadings_panel, 150),
            (self.strips.leftover_panel, 178),
            (self.run_panel, 142),
        ):
            left.addWidget(panel, share)
        right.addWidget(self.scores_panel, 370)
        right.addWidget(self.distances_panel, 300)
        self.finding = Finding(self.desk)
        layout = QHBoxLayout()
        layout.setSpacing(7)
        layout.addLayout(left, 66)
        layout.addLayout(right, 39)
        under(self.finding, layout, self)

    def views(self) -> tuple[View, ...]:
        """Everything that draws a chart here."""
        return (*self.strips.views, *self.planes)

    def show_new_samples(self) -> object:
        """The list of new samples, with their marks on the planes."""
        return self.questions.show_new()

    def takes_new_samples(self, place: QPoint) -> bool:
        """New samples fall on the score or the distance plane."""
        panels = (self.scores_panel, self.distances_panel)
        return any(panel.rect().contains(panel.mapFrom(self, place)) for panel in panels)

    # From the moment to the views

    def refresh(self) -> None:
        """Draw everything as the moment is."""
        found = self.desk.moment.found
        self._remember(self._found, found)
        self._found = found
        self.strips.refresh()
        self._show_finding()
        self._show_scores()
        self._show_distances()
        self._show_legend()
        self._show_cursor()

    def _show_finding(self) -> None:
        """Of what is kept; while a handle is held the sentence stays."""
        state, found = self.desk.moment.state, self.desk.moment.found
        if found is not None and not self.desk.moment.is_preview:
            codes = colouring_of(state).codes[found.usable.rows]
            codes = np.where(codes < colours.CONTINUOUS, codes, -1)
            self.finding.show_pieces(finding(found, codes, self.desk.selection.look.pair))

    def _on_live(self, changed: frozenset[str]) -> None:
        """What comes of the validation is drawn where it belongs; all of it only where it judges samples."""
        moment = self.desk.moment
        unseen = self.desk.live.brought is not None or (
            moment.state.table is not None and moment.state.table.set_aside
        )
        judged = unseen or moment.state.recipe.limits.distances == "held-out"
        if changed & SHOWN or ("checked" in changed and judged):
            self.redraw()
        elif "checked" in changed and self.isVisible():
            self._show_scores()
            self.strips.show_loadings()
        elif "checked" in changed:
            self.redraw()

    def _remember(self, before: Evaluation | None, now: Evaluation | None) -> None:
        """Where samples were set aside or brought back, show for a moment how the others moved."""
        if before is None or now is None or before.table.ids != now.table.ids:
            self._former = None
        elif before.usable.rows.tobytes() != now.usable.rows.tobytes():
            self._former = before
            self._settled.start()

    def _on_aside(self) -> None:
        """The samples set aside are projected."""
        self._show_scores()
        self._show_distances()

    def _forget_former(self) -> None:
        self._former = None
        self._show_scores()

    def _on_selection(self, changed: frozenset[str]) -> None:
        if not self.isVisible():
            self.redraw()
            return
        strips = self.strips
        if "along" in changed:
            self._show_distances()
        if "pair" in changed:
            self._show_finding()
            self._show_scores()
            strips.refresh() if strips.shade_kind == "size" else strips.show_loadings()
        if "picked" in changed:
            strips.show_leftover()
        if "stage" in changed or (changed & {"picked", "pair"} and strips.signal_kind != "data"):
            strips.show_signals()
        if "channel" in changed and self.run_kind == "channel":
            self._show_distances()
        if changed & {"focus", "alone"}:
            self._show_legend()
        if changed & {"picked", "focus", "alone"}:
            emphasise(self.desk, (*self.planes, strips.signals_view), self.desk.moment.state)
        if changed & {"channel", "hovered", "channels"}:
            self._show_cursor()

    def _show(self, panel: ChartPanel, view: View, chart: Chart) -> None:
        show(self.desk, panel, view, chart, self.desk.moment.state)

    def _show_scores(self) -> None:
        state, found = self.desk.moment.state, self.desk.moment.found
        pair, overlays = self.desk.selection.look.pair, self.score_menu.overlays
        if found is None or state.table is None or found.model.k == 1:
            self._show(self.scores_panel, self.scores_view, scores(state, found, pair))
            return
        pair, new, former = usable_pair(found, pair), self._newcomers(), self._former
        away = self.aside.now()

        stable = stability_of(found, self.desk.moment.checked)

        def make() -> Chart:
            plane = scores(state, found, pair)
            if stable is not None and stable.words:
                plane = replace(plane, note=f"{plane.note} · {stable.words}")
            plane = with_overlays(plane, state, found, pair, overlays, new, stable, away)
            way = None if former is None else moved(state, found, former, pair)
            return plane if way is None else replace(plane, curves=(*plane.curves, way))

        plain = overlays == type(overlays)() and not state.table.set_aside
        of_model = found.decomposition if plain else found.model
        shown = (state.table, colouring_of(state), of_model, found.usable.rows, pair, overlays)
        inputs = (*shown, new, former, stable, away)
        self._show(self.scores_panel, self.scores_view, self._memo.get("scores", inputs, make))

    def _show_distances(self) -> None:
        found, state, look = self.desk.moment.found, self.desk.moment.state, self.desk.selection.look
        new, away = self._newcomers(), self.aside.now()
        checked = self.desk.moment.checked
        seen = None
        if found is not None and found.recipe.limits.distances == "held-out":
            seen = seen_as_new(found, checked)
        with QSignalBlocker(self.new_switch):
            self.new_switch.setChecked(state.recipe.limits.distances == "held-out")
        rows, limits = found and found.usable.rows, found and found.recipe.limits
        held = checked and checked.validation
        common = (state.table, colouring_of(state), found and found.model, rows, new, limits, held, away)

        def plane() -> Chart:
            chart = distances(state, found, self.log, seen)
            if found is None:
                return chart
            return replace(chart, ghosts=distance_ghosts(state, found, ("t2", "q"), self.log, new, away))

        order = order_of(state) if look.along else None

        def run() -> Chart:
            if self.run_kind == "channel":
                return along(channel_run(state, found, look.channel), order, colouring_of(state))
            chart = run_order(state, found, self.run_kind, seen)
            if found is None:
                return chart
            ghosts = distance_ghosts(state, found, ("order", self.run_kind), False, new, away)
            return along(replace(chart, ghosts=ghosts), order, colouring_of(state))

        chart = self._memo.get("distances", (*common, self.log), plane)
        self._show(self.distances_panel, self.distances_view, chart)
        channel = look.channel if self.run_kind == "channel" else None
        chart = self._memo.get("run", (*common, self.run_kind, channel, order), run)
        self._show(self.run_panel, self.run_view, chart)
        offer_order(self.run_panel.x_title, state)

    def _show_as_new(self, on: bool) -> None:
        """Show the distances of the fit, or those of samples as if they were new."""
        limits = self.desk.study.state.recipe.limits
        wanted: Literal["fitted", "held-out"] = "held-out" if on else "fitted"
        self.desk.do(LimitBy(replace_fields(limits, distances=wanted)))

    def _refreshed_newcomers(self) -> Newcomers | None:
        self.refresh()
        return self._newcomers()

    def _newcomers(self) -> Newcomers | None:
        """The new samples on the model of the moment, where there are any that fit it."""
        found, brought = self.desk.moment.found, self.desk.live.brought
        if found is None or brought is None:
            return None
        checked = self.desk.moment.checked
        held = checked.validation if checked is not None else None
        same = self._projected is not None and all(
            mine is now for mine, now in zip(self._projected, (found, brought, held), strict=False)
        )
        if not same:
            new = None
            try:
                new = newcomers(found, *brought, checked)
            except InputError as error:
                self.desk.say(error)
            self._projected = (found, brought, held, new)
        assert self._projected is not None
        return self._projected[3]

    def _show_legend(self) -> None:
        state = self.desk.moment.state
        colouring = colouring_of(state)
        self.chooser.show_columns(colouring.column, colour_columns(state.table))
        self.legend.show_colouring(colouring, self.desk.selection.look.focus)

    def _show_cursor(self) -> None:
        self.strips.show_cursor()
        for plane in self.planes:
            plane.hover_mark(self.desk.selection.look.hovered)

    # From the person to the study

    def _label_columns(self) -> list[str]:
        table = self.desk.moment.state.table
        return [] if table is None else [c.name for c in table.classes] + [c.name for c in table.properties]

    def _set_lasso(self, kind: str) -> None:
        for plane in self.planes:
            plane.hand.take_tool("lasso" if kind == "lasso" else "box")
        self.scores_view.probing = kind == "probe"
        if kind != "probe" and self.strips.probe_at is not None:
            self.strips.set_probe(None)

    def _set_log(self, on: bool) -> None:
        self.log = on
        self._show_distances()

    def _set_run(self, kind: str) -> None:
        self.run_kind = kind
        self.run_panel.title.setToolTip(DEFINITIONS[kind])
        self._show_distances()
