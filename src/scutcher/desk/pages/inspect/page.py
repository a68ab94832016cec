"""The Inspect page: signals, loadings, residuals and distances on strips; scores and distances on planes."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace
from functools import partial

import numpy as np
from PySide6.QtCore import QPoint, QTimer
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from scutcher.charts import colours
from scutcher.charts.definitions import DEFINITIONS
from scutcher.charts.description import Chart
from scutcher.charts.emphasis import colouring_of
from scutcher.charts.memo import ChartMemo
from scutcher.charts.overlays import with_overlays
from scutcher.charts.page_findings.inspect import finding
from scutcher.charts.scores import scores, usable_pair
from scutcher.charts.treatment_effects import moved
from scutcher.desk.actions.class_clicks import ClassClicks
from scutcher.desk.context import Desk, follow
from scutcher.desk.deferred import InTurns, Soon
from scutcher.desk.pages.aside import AsideWork
from scutcher.desk.pages.declaration import PageView
from scutcher.desk.pages.inspect.distance_planes import DistancePlanes
from scutcher.desk.pages.inspect.newcomers import NewcomersWork
from scutcher.desk.pages.inspect.questions import Questions
from scutcher.desk.pages.inspect.score_menu import ScoreMenu
from scutcher.desk.pages.inspect.strips import InspectStrips
from scutcher.desk.pages.showing import View, emphasise, show
from scutcher.desk.painting.plane import PlaneView
from scutcher.desk.widgets.finding import Finding, under
from scutcher.desk.widgets.gestures import attend_plane
from scutcher.desk.widgets.legend import ColumnChooser, LegendRow, colour_columns
from scutcher.desk.widgets.panel import ChartPanel
from scutcher.study.document.commands.classes import ColourBy
from scutcher.study.evaluation.evaluation import Evaluation
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
        self._memo = ChartMemo()
        self._found: Evaluation | None = None
        self._former: Evaluation | None = None
        self._settled = QTimer(self)
        self._settled.setSingleShot(True)
        self._settled.setInterval(MOVING)
        self._settled.timeout.connect(self._forget_former)

    def build(self) -> Iterator[None]:
        """Strips at the left, planes at the right."""
        desk = self.desk
        self.strips = InspectStrips(desk)
        yield from self.strips.build()
        yield
        self.aside = AsideWork(desk, "inspect set aside", self._show_planes)
        self.newcomers = NewcomersWork(desk, self._show_planes)
        self.distances = DistancePlanes(desk, self.newcomers, self.aside)
        yield
        self._make_scores()
        self.questions = Questions(
            desk, self, self.scores_panel, self.strips.signals_panel, self._refreshed_newcomers
        )
        yield
        self._arrange()
        yield
        self._turns = InTurns(self)
        self.redraw = Soon(self.refresh, self)
        follow(self, desk.live, self._on_live)
        follow(self, desk.selection, self._on_selection)
        if desk.has_much:
            self.hide_axes()

    # What is on the page

    def _make_scores(self) -> None:
        self.scores_view = PlaneView()
        self.planes = (self.scores_view, *self.distances.views)
        self.scores_panel = ChartPanel(
            self.scores_view, f"{DEFINITIONS['scores']} Click a title to change the component."
        )
        attend_plane(self.scores_view, self.desk.selection)
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
            (self.distances.run_panel, 142),
        ):
            left.addWidget(panel, share)
        right.addWidget(self.scores_panel, 370)
        right.addWidget(self.distances.panel, 300)
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
        panels = (self.scores_panel, self.distances.panel)
        return any(panel.rect().contains(panel.mapFrom(self, place)) for panel in panels)

    # From the moment to the views

    def refresh(self) -> None:
        """Draw everything as the moment is."""
        found = self.desk.moment.found
        self._remember(self._found, found)
        self._found = found
        around = (self._show_finding, self._show_legend, self._show_cursor)
        planes = (self._show_scores, *self.distances.parts())
        self._turns.run((*self.strips.parts(), *planes, *around), self.desk.has_much)

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
            self._turns.also((self._show_scores, self.strips.show_loadings), self.desk.has_much)
        elif "checked" in changed:
            self.redraw()

    def _remember(self, before: Evaluation | None, now: Evaluation | None) -> None:
        """Where samples were set aside or brought back, show for a moment how the others moved."""
        if before is None or now is None or before.table.ids != now.table.ids:
            self._former = None
        elif before.usable.rows.tobytes() != now.usable.rows.tobytes():
            self._former = before
            self._settled.start()

    def _show_planes(self) -> None:
        """The scores and the distances; also when samples that are projected come from behind."""
        self._show_scores()
        self.distances.refresh()

    def _forget_former(self) -> None:
        self._former = None
        self._show_scores()

    def _on_selection(self, changed: frozenset[str]) -> None:
        if not self.isVisible():
            self.redraw()
            return
        strips = self.strips
        if "along" in changed:
            self.distances.refresh()
        if "pair" in changed:
            self._show_finding()
            self._show_scores()
            strips.refresh() if strips.shade_kind == "size" else strips.show_loadings()
        if "picked" in changed:
            strips.show_leftover()
        if "stage" in changed or (changed & {"picked", "pair"} and strips.signal_kind != "data"):
            strips.show_signals()
        if "channel" in changed and self.distances.run_kind == "channel":
            self.distances.refresh()
        if changed & {"focus", "alone"}:
            self._show_legend()
        if changed & {"picked", "focus", "alone"}:
            views = (*self.planes, strips.signals_view)
            self._turns.also([partial(self._emphasise, view) for view in views], self.desk.has_much)
        if changed & {"channel", "hovered", "channels"}:
            self._show_cursor()

    def _emphasise(self, view: View) -> None:
        emphasise(self.desk, (view,), self.desk.moment.state)

    def _show(self, panel: ChartPanel, view: View, chart: Chart) -> None:
        show(self.desk, panel, view, chart, self.desk.moment.state)

    def _show_scores(self) -> None:
        state, found = self.desk.moment.state, self.desk.moment.found
        pair, overlays = self.desk.selection.look.pair, self.score_menu.overlays
        if found is None or state.table is None or found.model.k == 1:
            self._show(self.scores_panel, self.scores_view, scores(state, found, pair))
            return
        pair, new, former = usable_pair(found, pair), self.newcomers.now(), self._former
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

    def _refreshed_newcomers(self) -> NewcomersWork:
        self.refresh()
        return self.newcomers

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
