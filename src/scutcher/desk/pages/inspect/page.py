"""The Inspect page: signals, loadings, leftovers and distances on strips; scores and distances on planes."""

from __future__ import annotations

from dataclasses import replace

from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from scutcher.charts import colours
from scutcher.charts.definitions import DEFINITIONS
from scutcher.charts.description import Chart, Shade
from scutcher.charts.distances import distances, run_order
from scutcher.charts.emphasis import chart_strength, colouring_of
from scutcher.charts.loadings import loadings
from scutcher.charts.overlays import distance_ghosts, with_overlays
from scutcher.charts.residuals import BandMemo
from scutcher.charts.sample_views import channel_run
from scutcher.charts.scores import scores, usable_pair
from scutcher.charts.treatment_effects import moved
from scutcher.core.arrays import Integers
from scutcher.core.errors import InputError
from scutcher.desk.context import Desk, follow
from scutcher.desk.deferred import Soon
from scutcher.desk.pages.inspect.limit_menu import LimitMenu
from scutcher.desk.pages.inspect.score_menu import ScoreMenu
from scutcher.desk.pages.inspect.strips import InspectStrips
from scutcher.desk.painting.plane import PlaneView
from scutcher.desk.painting.strip import StripView
from scutcher.desk.widgets.gestures import ClassClicks, attend_plane
from scutcher.desk.widgets.legend import ColumnChooser, LegendRow, colour_columns
from scutcher.desk.widgets.panel import ChartPanel
from scutcher.study.document.commands.classes import ColourBy
from scutcher.study.evaluation.evaluation import Evaluation
from scutcher.study.evaluation.new_samples import Newcomers, newcomers

MOVING = 2500
"""Milliseconds for which it is shown how samples moved when others were set aside."""

SHOWN = {"evaluation", "state", "trouble", "newcomers"}
"""What the page shows of the live model; validation and progress are on other pages."""


class InspectPage(InspectStrips):
    """Reads the study; tells it nothing but through commands; the views never talk to each other."""

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.desk = desk
        self.means = False
        self.share_kind, self.run_kind, self.log = "residual", "q", False
        self.signal_kind, self.shade_kind = "data", "none"
        self._shade: Shade | None = None
        self._found: Evaluation | None = None
        self._former: Evaluation | None = None
        self._projected: tuple[object, object, Newcomers | None] | None = None
        self._settled = QTimer(self)
        self._settled.setSingleShot(True)
        self._settled.setInterval(MOVING)
        self._settled.timeout.connect(self._forget_former)
        self.probe_at: tuple[float, float] | None = None
        self._band = BandMemo()
        self._make_strips()
        self._make_planes()
        self._arrange()
        self.redraw = Soon(self.refresh, self)
        follow(self, desk.live, lambda changed: self.redraw() if changed & SHOWN else None)
        follow(self, desk.selection, self._on_selection)
        self.refresh()

    # What is on the page

    def _make_planes(self) -> None:
        self.scores_view, self.distances_view = PlaneView(), PlaneView()
        self.run_view = PlaneView(mark_size=6.0)
        self.run_view.ground.setMouseEnabled(x=True, y=False)
        self.planes = (self.scores_view, self.distances_view, self.run_view)
        self.scores_panel = ChartPanel(self.scores_view, DEFINITIONS["scores"])
        self.distances_panel = ChartPanel(self.distances_view, f"{DEFINITIONS['t2']}\n\n{DEFINITIONS['q']}")
        self.run_panel = ChartPanel(self.run_view, DEFINITIONS["q"])
        for plane in self.planes:
            attend_plane(plane, self.desk.selection)
        self.chooser = ColumnChooser()
        self.chooser.column_chosen.connect(lambda column: self.desk.do(ColourBy(column)))
        self.scores_panel.add_to_header(self.chooser)
        self.score_menu = ScoreMenu(lambda overlays: self._show_pair(), self._label_columns)
        self.scores_panel.add_to_header(self.score_menu)
        self.scores_panel.add_choices(
            {
                "box": "box|Drag to pick with a rectangle; Shift adds, Ctrl toggles, Esc clears",
                "lasso": "lasso|Drag to pick with a free line; Shift adds, Ctrl toggles, Esc clears",
                "probe": "probe|Drag a point over the plane: the signals strip shows what it stands for",
            },
            self._set_lasso,
        )
        self.scores_view.probed.connect(self._on_probe)
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
        for title, place in ((self.scores_panel.x_title, 0), (self.scores_panel.y_title, 1)):
            title.set_clickable(True)
            title.setToolTip("Click to choose another component")
            title.clicked.connect(lambda _=False, place=place: self._choose_component(place))
        self.legend = LegendRow()
        self.class_clicks = ClassClicks(self.legend, self.desk)
        self.scores_panel.add_below(self.legend)

    def _arrange(self) -> None:
        left, right = QVBoxLayout(), QVBoxLayout()
        for column in (left, right):
            column.setSpacing(7)
        for panel, share in (
            (self.signals_panel, 200),
            (self.loadings_panel, 150),
            (self.leftover_panel, 178),
            (self.run_panel, 142),
        ):
            left.addWidget(panel, share)
        right.addWidget(self.scores_panel, 370)
        right.addWidget(self.distances_panel, 300)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(8, 8, 8, 7)
        layout.setSpacing(7)
        layout.addLayout(left, 66)
        layout.addLayout(right, 39)

    def views(self) -> tuple[StripView | PlaneView, ...]:
        """Everything that draws a chart here."""
        return (*self.strips, *self.planes)

    # From the study to the views

    def refresh(self) -> None:
        """Draw everything as the study is now."""
        found = self.desk.moment.found
        self._remember(self._found, found)
        self._found = found
        self._shade = self._make_shade()
        self._show_signals()
        self._show_pair()
        self._show_distances()
        self._show_leftover()
        self._show_legend()
        self._show_cursor()

    def _remember(self, before: Evaluation | None, now: Evaluation | None) -> None:
        """Where samples were set aside or brought back, show for a moment how the others moved."""
        if before is None or now is None or before.table.ids != now.table.ids:
            self._former = None
        elif before.usable.rows.tobytes() != now.usable.rows.tobytes():
            self._former = before
            self._settled.start()

    def _forget_former(self) -> None:
        self._former = None
        self._show_pair()

    def _on_selection(self, changed: frozenset[str]) -> None:
        if not self.isVisible():
            self.redraw()
            return
        if "stage" in changed:
            self._show_signals()
        if "pair" in changed:
            if self.shade_kind == "size":
                self._set_shade("size")
            self._show_pair()
        if changed & {"picked"}:
            self._show_leftover()
        if changed & {"picked", "pair"} and self.signal_kind != "data":
            self._show_signals()
        if "channel" in changed and self.run_kind == "channel":
            self._show_distances()
        if changed & {"focus", "alone"}:
            self._show_legend()
        if changed & {"picked", "focus", "alone"}:
            self._emphasise()
        if changed & {"channel", "hovered", "channels"}:
            self._show_cursor()

    def _show(self, panel: ChartPanel, view: StripView | PlaneView, chart: Chart) -> None:
        panel.describe(chart)
        view.show_chart(chart, self._strength(chart))
        view.settle()

    def _strength(self, chart: Chart) -> Integers:
        """How strongly each line or mark of a chart is drawn now."""
        levels = colouring_of(self.desk.moment.state).levels
        return chart_strength(chart, self.desk.selection.look, levels)

    def _show_pair(self) -> None:
        found, pair = self._found, self.desk.selection.look.pair
        if found is not None:
            pair = usable_pair(found, pair)
        chart = replace(loadings(found, pair), shade=self._shade)
        self._show(self.loadings_panel, self.loadings_view, chart)
        self.loadings_panel.note.setText(_key_of(chart))
        plane = scores(self.desk.moment.state, found, pair)
        plane = with_overlays(
            plane, self.desk.moment.state, found, pair, self.score_menu.overlays, self._newcomers()
        )
        if found is not None and self._former is not None:
            way = moved(self.desk.moment.state, found, self._former, pair)
            plane = plane if way is None else replace(plane, curves=(*plane.curves, way))
        self._show(self.scores_panel, self.scores_view, plane)

    def _show_distances(self) -> None:
        found, state = self._found, self.desk.moment.state
        chart = distances(state, found, self.log)
        run = run_order(state, found, self.run_kind) if self.run_kind != "channel" else None
        if found is not None:
            new = self._newcomers()
            chart = replace(chart, ghosts=distance_ghosts(state, found, ("t2", "q"), self.log, new))
            if run is not None:
                run = replace(run, ghosts=distance_ghosts(state, found, ("order", self.run_kind), False, new))
        if run is None:
            run = channel_run(state, found, self.desk.selection.look.channel)
        self._show(self.distances_panel, self.distances_view, chart)
        self._show(self.run_panel, self.run_view, run)

    def _newcomers(self) -> Newcomers | None:
        """The new samples on the model of now, where there are any that fit it."""
        found, brought = self._found, self.desk.live.brought
        if found is None or brought is None:
            return None
        if self._projected is None or self._projected[0] is not found or self._projected[1] is not brought:
            new = None
            try:
                new = newcomers(found, *brought)
            except InputError as error:
                self.desk.say(error)
            self._projected = (found, brought, new)
        return self._projected[2]

    def _show_legend(self) -> None:
        state = self.desk.moment.state
        colouring = colouring_of(state)
        self.chooser.show_columns(colouring.column, colour_columns(state.table))
        self.legend.show_colouring(colouring, self.desk.selection.look.focus)

    def _emphasise(self) -> None:
        for view in (*self.planes, self.signals_view):
            if view.chart is not None:
                view.emphasise(self._strength(view.chart))

    def _show_cursor(self) -> None:
        look = self.desk.selection.look
        for strip in self.strips:
            strip.set_cursor(look.channel)
            strip.set_channels(look.channels)
        self.signals_view.hover_line(look.hovered)
        for plane in self.planes:
            plane.hover_mark(look.hovered)
        self.signals_panel.readout.setText(self._readout())

    # From the person to the study

    def _label_columns(self) -> list[str]:
        table = self.desk.moment.state.table
        return [] if table is None else [column.name for column in (*table.classes, *table.properties)]

    def _set_lasso(self, kind: str) -> None:
        for plane in self.planes:
            plane.lasso = kind == "lasso"
        self.scores_view.probing = kind == "probe"
        if kind != "probe" and self.probe_at is not None:
            self._on_probe(None)

    def _set_log(self, on: bool) -> None:
        self.log = on
        self.refresh()

    def _set_run(self, kind: str) -> None:
        self.run_kind = kind
        self.run_panel.title.setToolTip(DEFINITIONS[kind])
        self.refresh()


def _key_of(chart: Chart) -> str:
    """The components in their colours, and the groups of a shade in theirs, as rich text."""
    if chart.lines is None:
        return ""
    words = [
        f'<span style="color:{colours.COMPONENT_COLOURS[place % 2]}">━</span> {name.split()[-1]}'
        for place, name in enumerate(chart.lines.names)
    ]
    for code, name in enumerate(chart.shade.names if chart.shade is not None else ()):
        words.append(f'<span style="color:{colours.group_colour(code)}">■</span> {name}')
    return "&nbsp;&nbsp;".join(words)
