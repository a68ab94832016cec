"""The Treat page: before, after, where classes differ; the step's parameters, what it did, scores so far."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

from PySide6.QtWidgets import QHBoxLayout, QToolButton, QVBoxLayout, QWidget

from scutcher.charts.definitions import DEFINITIONS
from scutcher.charts.description import Chart
from scutcher.charts.emphasis import colouring_of
from scutcher.charts.page_findings.treat import finding, of_ends
from scutcher.charts.scores import scores, usable_pair
from scutcher.charts.signals import stage_of
from scutcher.charts.treatment_effects import (
    FigureMemo,
    ghosts_of,
    step_effects,
)
from scutcher.core.validation.segments import group_count
from scutcher.desk.actions.class_clicks import ClassClicks
from scutcher.desk.context import Desk, follow
from scutcher.desk.deferred import InTurns, Soon
from scutcher.desk.pages.declaration import PageView
from scutcher.desk.pages.showing import View, emphasise, show
from scutcher.desk.pages.treat.edits import regions_field
from scutcher.desk.pages.treat.effects import EffectsTable
from scutcher.desk.pages.treat.strips import TreatStrips, newest
from scutcher.desk.pages.try_several.page import TrySeveral
from scutcher.desk.painting.plane import PlaneView
from scutcher.desk.painting.strip import StripView
from scutcher.desk.widgets.finding import Finding, under
from scutcher.desk.widgets.gestures import attend_plane
from scutcher.desk.widgets.legend import LegendRow
from scutcher.desk.widgets.panel import ChartPanel, paper
from scutcher.desk.widgets.parameter_form import ParameterForm
from scutcher.desk.widgets.scaling_form import ScalingPanel
from scutcher.desk.words import Words
from scutcher.study.document.state import State
from scutcher.study.evaluation.evaluation import Evaluation
from scutcher.study.step_comparison import Without


class TreatPage(PageView):
    """Works on the knot of the trail that the look is at."""

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.desk = desk
        self.ghosts = False
        self.form: ParameterForm | None = None
        self._form_for: object = None
        self._figures = FigureMemo()
        self._shown, self._place = desk.moment, -1

    def build(self) -> Iterator[None]:
        """The strips at the left, the rest at the right."""
        desk = self.desk
        self.without = Without(desk.live, self._on_without, self._figures_behind)
        self.strips = TreatStrips(desk, lambda: self._show_effects(self._place))
        yield
        self._make_right()
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

    def _make_right(self) -> None:
        self.form_title = Words()
        self.form_note = Words()
        self.form_note.setObjectName("quiet")
        self.form_note.setWordWrap(True)
        self.form_note.setContentsMargins(10, 0, 10, 6)
        self.form_place = QVBoxLayout()
        self.form_place.setContentsMargins(0, 0, 0, 0)
        inner = QWidget()
        column = QVBoxLayout(inner)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(2)
        column.addLayout(self.form_place)
        column.addWidget(self.form_note)
        self.try_button = QToolButton()
        self.try_button.setText("try several…")
        self.try_button.setToolTip("Try a grid of treatments behind and compare the outcomes (Ctrl+T)")
        self.try_button.clicked.connect(lambda: self.over_wanted.emit(TrySeveral))
        self.form_panel = paper(self.form_title, inner, tools=(self.try_button,))
        self.effects = EffectsTable()
        self.effects_panel = paper("What this step did", self.effects)
        self.scores_view = PlaneView()
        self.scores_panel = ChartPanel(self.scores_view, DEFINITIONS["treat_scores"])
        self.scores_panel.add_switch("ghost before|Where the samples lay without this step", self._set_ghosts)
        attend_plane(self.scores_view, self.desk.selection)
        self.legend = LegendRow()
        self.class_clicks = ClassClicks(self.legend, self.desk)
        self.scores_panel.add_below(self.legend)
        self.scaling = ScalingPanel(self.desk)

    def _arrange(self) -> None:
        left, right = QVBoxLayout(), QVBoxLayout()
        for column in (left, right):
            column.setSpacing(7)
        left.addWidget(self.strips.before_panel, 235)
        left.addWidget(self.strips.after_panel, 255)
        left.addWidget(self.strips.ratio_panel, 160)
        right.addWidget(self.form_panel)
        right.addWidget(self.scaling, 18)
        right.addWidget(self.effects_panel)
        right.addWidget(self.scores_panel, 20)
        self.finding = Finding(self.desk)
        layout = QHBoxLayout()
        layout.setSpacing(7)
        layout.addLayout(left, 66)
        layout.addLayout(right, 39)
        under(self.finding, layout, self)

    def views(self) -> tuple[StripView | PlaneView, ...]:
        """Everything that draws a chart here."""
        return (*self.strips.views, self.scores_view)

    # From the study to the views

    @property
    def _found(self) -> Evaluation | None:
        return self._shown.found

    @property
    def place(self) -> int:
        """The step in the recipe that is worked on; −1: the data; the number of steps: the scaling."""
        return stage_of(self.desk.selection.look.stage, self._found) - 1

    @property
    def _steps(self) -> int:
        return 0 if self._found is None else len(self._found.recipe.treat)

    def refresh(self) -> None:
        """Draw everything as the study is now."""
        self._shown = self.desk.moment
        self._place = self.place if self._found is not None else -1
        parts = (
            lambda: self._show_form(self._place),
            *self.strips.parts(self._shown, self._place),
            lambda: self._show_effects(self._place),
            self._show_scores,
            self._show_legend,
            self._show_cursor,
        )
        self._turns.run(parts, self.desk.has_much)

    def _show_legend(self) -> None:
        self.legend.show_colouring(colouring_of(self._shown.state), self.desk.selection.look.focus)

    def _show_form(self, place: int) -> None:
        found, state = self._found, self._shown.state
        is_step = found is not None and 0 <= place < self._steps
        is_scaling = found is not None and place == self._steps
        self.scaling.setVisible(is_scaling)
        self.form_panel.setVisible(not is_scaling)
        self.effects_panel.setVisible(is_step)
        if is_scaling and found is not None:
            self.scaling.refresh(found)
        if not is_step or state.table is None or found is None:
            self._drop_form()
            self.form_title.setText("The data as brought in")
            self.form_note.setText("Choose a knot of the trail to work on it, or add a treatment there.")
            self.form_note.setVisible(True)
            self.strips.range_switch.setVisible(False)
            return
        coming = newest(self.desk, self._shown, place)[1] or found
        step = coming.recipe.treat[place]
        declared = step.treatment
        before = found.stages[place]
        names = tuple((column.name, column.names) for column in before.classes)
        key = (place, step.method, before.axis.fingerprint, before.ids, names, before.column_names)
        if self.form is None or key != self._form_for:
            self._drop_form()
            self._form_for = key
            self.form = ParameterForm(step.parameters, before)
            self.strips.edits.attend(self.form, place, step.method)
            self.form_place.addWidget(self.form)
        elif self.form.parameters != step.parameters:
            self.form.show_parameters(step.parameters)
        self.form_title.setText(declared.name)
        self.form_title.setToolTip(f"{declared.purpose}\n\nSource: {declared.source}")
        trouble = coming.passed_over.get(place)
        words = declared.help if trouble is None else f"Passed over: {trouble.problem} {trouble.remedy}"
        self.form_note.setText(words if step.on else "Switched off: the data go by it unchanged.")
        self.form_note.setToolTip(f"Source: {declared.source}")
        drags = bool(regions_field(step.parameters)) or hasattr(step.parameters, "position")
        self.strips.let_drag(drags)

    def _drop_form(self) -> None:
        if self.form is not None:
            form, self.form, self._form_for = self.form, None, None
            self.strips.edits.leave()
            form.setParent(None)
            form.deleteLater()

    def _show_effects(self, place: int) -> None:
        found = self._found
        if found is None or not 0 <= place < self._steps:
            self.finding.show_pieces(of_ends(place < 0, self._steps) if found is not None else [])
            return
        self.without.want(found, place)
        checked = self._shown.checked
        k = found.model.k
        after = None
        if checked is not None and checked.validation is not None and k <= len(checked.validation.q2):
            after = float(checked.validation.q2[k - 1])
        before = self.without.q2
        shown = step_effects(
            self._shown.state,
            found,
            place,
            (before, after if before is not None else None),
            self._figures,
        )
        behind = self.without.busy or self.desk.live.checking is not None
        groups = group_count(found.treated)
        name = found.recipe.treat[place].treatment.name
        self.finding.show_pieces(finding(name, shown, groups, bool(behind)))
        self.effects.show_effects(shown, awaited(self._shown.state, found) if behind else frozenset())
        inside = self.strips.inside(found, place)
        codes = colouring_of(self._shown.state).codes[found.usable.rows]
        values = None if inside is None else inside.per_sample
        self.effects.show_dots(values, codes, "" if inside is None else inside.per_sample_name)

    def _figures_behind(self, found: Evaluation, place: int) -> None:
        """On another thread: the figures of a step that take too long for a frame."""
        shown = self._shown
        if shown.found is found:
            step_effects(shown.state, found, place, (None, None), self._figures, behind=True)

    def _show_scores(self) -> None:
        found, state, look = self._found, self._shown.state, self.desk.selection.look
        chart = scores(state, found, look.pair)
        if found is not None and found.model.k > 1 and self.ghosts and self.without.evaluation is not None:
            pair = usable_pair(found, look.pair)
            ghosts = ghosts_of(state, found, self.without.evaluation, pair)
            chart = replace(chart, ghosts=ghosts)
        self._show(self.scores_panel, self.scores_view, replace(chart, title="Scores so far"))

    def _show(self, panel: ChartPanel, view: View, chart: Chart) -> None:
        show(self.desk, panel, view, chart, self._shown.state)

    def _show_cursor(self) -> None:
        self.strips.show_cursor()
        self.scores_view.hover_mark(self.desk.selection.look.hovered)

    # Listening

    def _on_live(self, changed: frozenset[str]) -> None:
        if changed & {"evaluation", "trouble", "state"} or not self.isVisible():
            self.redraw()
        elif "staged" in changed:
            self._show_form(self._place)
            self.strips.refresh(self._shown, self._place)
        elif changed & {"checked", "checking"} and self.desk.moment.found is self._found:
            self._shown = self.desk.moment
            self._show_effects(self._place)

    def _on_without(self) -> None:
        self.redraw()

    def _on_selection(self, changed: frozenset[str]) -> None:
        if not self.isVisible() or changed & {"stage", "pair", "picked"}:
            self.redraw()
        elif changed & {"focus", "alone"}:
            emphasise(self.desk, self.views(), self._shown.state)
            self._show_legend()
        elif changed & {"channel", "hovered"}:
            self._show_cursor()

    # From the user to the document

    def _set_ghosts(self, on: bool) -> None:
        self.ghosts = on
        self._show_scores()


def awaited(state: State, found: Evaluation) -> frozenset[str]:
    """The figures of a step that these samples have: what is not there yet is being computed."""
    table, codes = found.treated, colouring_of(state).codes[found.usable.rows]
    has = {
        "separation": int(codes.min()) < int(codes.max()),
        "replicates": table.replicates is not None,
        "noise": table.axis.ordered,
        "q2": found.recipe.validate.scheme != "none",
    }
    return frozenset(key for key, there in has.items() if there)
