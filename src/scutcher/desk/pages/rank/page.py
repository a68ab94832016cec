"""The Rank page: shares, evidence, the held-out check, the component gallery, fitted values."""

from __future__ import annotations

from collections.abc import Iterator
from functools import partial

from PySide6.QtCore import Qt
from PySide6.QtGui import QShowEvent
from PySide6.QtWidgets import (
    QHBoxLayout,
    QLineEdit,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from scutcher.charts.definitions import DEFINITIONS
from scutcher.charts.description import Chart
from scutcher.charts.emphasis import chart_strength, colouring_of
from scutcher.charts.page_findings.rank import finding
from scutcher.charts.rank import Shares, by_variable, evidence_rows, fitted_measured, portraits, shares
from scutcher.core.errors import InputError
from scutcher.core.words import shown, typed_number
from scutcher.desk.actions.components import keep_components, preview_components
from scutcher.desk.context import Desk, follow
from scutcher.desk.deferred import Soon
from scutcher.desk.pages.declaration import PageView
from scutcher.desk.pages.rank.component_gallery import Portraits, scrolled
from scutcher.desk.pages.rank.evidence import EvidenceChart
from scutcher.desk.pages.rank.validation_form import CheckForm
from scutcher.desk.painting.handle_plot import HandlePlot
from scutcher.desk.painting.plane import PlaneView
from scutcher.desk.painting.strip import StripView
from scutcher.desk.widgets.figures_table import FiguresTable
from scutcher.desk.widgets.finding import Finding, under
from scutcher.desk.widgets.gestures import pick
from scutcher.desk.widgets.panel import ChartPanel, paper
from scutcher.desk.words import Words
from scutcher.study.document.commands.recipe import EvidenceBy


class RankPage(PageView):
    """How many components: all the evidence in view, and one handle."""

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.desk = desk
        self.kind, self.below = "shares", "components"

    def build(self) -> Iterator[None]:
        """Shares and evidence at the left, the check and the gallery at the right."""
        for part in (self._make_left, self._make_gallery, self._make_by_variable, self._make_below):
            part()
            yield
        self.finding = Finding(self.desk)
        layout = QHBoxLayout()
        layout.setSpacing(7)
        layout.addLayout(self._left(), 62)
        layout.addLayout(self._right(), 43)
        under(self.finding, layout, self)
        yield
        self.redraw = Soon(self.refresh, self)
        follow(self, self.desk.live, lambda changed: self.redraw() if changed - {"checking"} else None)
        follow(self, self.desk.selection, self._on_selection)

    def _make_left(self) -> None:
        self.shares_view = HandlePlot()
        self.shares_table = FiguresTable()
        self.shares_stack = QStackedWidget()
        self.shares_stack.addWidget(self.shares_view)
        self.shares_stack.addWidget(self.shares_table)
        self.shares_panel = ChartPanel(self.shares_stack, DEFINITIONS["shares"])
        self.shares_panel.add_choices(
            {
                "shares": "shares|Share of the variance: each, fitted, held out",
                "eigenvalues": "eigenvalues|λ of each component",
                "log": "log|log10 of the eigenvalues",
                "table": "table|All figures as a table",
            },
            self._set_kind,
        )
        self.shares_view.moving.connect(partial(preview_components, self.desk))
        self.shares_view.moved.connect(partial(keep_components, self.desk))
        self.evidence = EvidenceChart()
        self.evidence.chosen.connect(partial(keep_components, self.desk))
        self.evidence.pointed.connect(self._on_pointed)
        self.meaning = Words()
        self.meaning.setObjectName("quiet")
        self.meaning.setWordWrap(True)
        self.meaning.setFixedHeight(32)
        self.meaning.setAlignment(Qt.AlignmentFlag.AlignTop)
        self.meaning.setContentsMargins(10, 0, 10, 2)
        self.share = QLineEdit()
        self.share.setFixedWidth(48)
        self.share.setAlignment(Qt.AlignmentFlag.AlignRight)
        self.share.setAccessibleName("Share of variance to reach, in percent")
        self.share.setToolTip("The share of variance that one of the lines asks for, in percent")
        self.share.editingFinished.connect(self._on_share)
        inside = QWidget()
        column = QVBoxLayout(inside)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(0)
        column.addWidget(self.evidence, 1)
        column.addWidget(self.meaning)
        words = Words("share to reach / %")
        words.setObjectName("quiet")
        self.evidence_panel = paper("Evidence", inside, tools=(words, self.share))

    def _left(self) -> QVBoxLayout:
        left = QVBoxLayout()
        left.setSpacing(7)
        left.addWidget(self.shares_panel, 50)
        left.addWidget(self.evidence_panel, 50)
        return left

    def _make_gallery(self) -> None:
        self.check = CheckForm(self.desk)
        self.portraits = Portraits()
        self.portraits.clicked.connect(self._on_component)

    def _make_by_variable(self) -> None:
        self.variable_view = StripView()
        self.variable_view.channel.connect(lambda channel: self.desk.selection.change(channel=channel))

    def _make_below(self) -> None:
        self.fitted_view = PlaneView()
        self.fitted_view.picked.connect(self._on_fitted_picked)
        self.below_stack = QStackedWidget()
        for view in (scrolled(self.portraits), self.variable_view, self.fitted_view):
            self.below_stack.addWidget(view)
        self.below_panel = ChartPanel(self.below_stack, DEFINITIONS["gallery"])
        variables = f"variables|{DEFINITIONS['variance']}"
        self.below_panel.add_choices(
            {
                "components": f"components|{DEFINITIONS['gallery']}",
                "variance": variables,
                "importance": "importance|Σ λ p² / Σ λ over the components kept",
                "fitted": "fitted|Fitted against measured: the picked sample, or the cursor's variable",
            },
            self._set_below,
        )

    def _right(self) -> QVBoxLayout:
        right = QVBoxLayout()
        right.setSpacing(7)
        right.addWidget(self.check)
        right.addWidget(self.below_panel, 1)
        return right

    def views(self) -> tuple[StripView | PlaneView, ...]:
        """The views of charts on the page that can be copied."""
        if self.below == "fitted":
            return (self.fitted_view,)
        return (self.variable_view,) if self.below in ("variance", "importance") else ()

    def showEvent(self, event: QShowEvent) -> None:
        """Here the slow lines of evidence are wanted, whatever they cost."""
        super().showEvent(event)
        if not self.desk.live.thorough:
            self.desk.live.check(thorough=True)

    def refresh(self) -> None:
        """Draw everything as the study is now."""
        moment = self.desk.moment
        found, state = moment.found, moment.state
        if found is not None:
            self.finding.show_pieces(finding(found, moment.checked))
        drawn = shares(found, moment.checked)
        table = self.kind == "table"
        self.shares_stack.setCurrentIndex(1 if table else 0)
        if table:
            self._fill_table(drawn)
        else:
            self.shares_view.show_shares(drawn, self.kind)
        titles = {"shares": "share of variance", "eigenvalues": "eigenvalue", "log": "log10 eigenvalue"}
        self.shares_panel.describe(
            Chart(
                title="How many?",
                note="bars each · ● fitted · ■ held out" if self.kind == "shares" else "",
                x_title="" if table else "components",
                y_title="" if table else titles[self.kind],
            )
        )
        self.shares_panel.empty.hide()
        most = 15 if drawn is None else len(drawn.each)
        kept = 1 if found is None else found.model.k
        share = state.recipe.evidence.share
        self.evidence.show_rows(evidence_rows(moment.checked, share), kept, most)
        if not self.share.hasFocus() and not self.share.isModified():
            self.share.setText(shown(100.0 * share))
        if not self.meaning.text():
            self._on_pointed(None)
        self._show_below()

    def _show_below(self) -> None:
        found, state, look = self.desk.moment.found, self.desk.moment.state, self.desk.selection.look
        if self.below == "components":
            pictures = portraits(state, found, self.desk.moment.checked)
            self.portraits.show_portraits(pictures, 0 if found is None else found.model.k)
            self.below_panel.describe(Chart(title="Components", note=""))
            self.below_panel.empty.hide()
        elif self.below == "fitted":
            self._show(self.fitted_view, fitted_measured(state, found, look.channel, look.picked))
        else:
            self._show(self.variable_view, by_variable(found, self.below))
            self.variable_view.set_cursor(look.channel)

    def _show(self, view: StripView | PlaneView, chart: Chart) -> None:
        self.below_panel.describe(chart)
        levels = colouring_of(self.desk.moment.state).levels
        view.show_chart(chart, chart_strength(chart, self.desk.selection.look, levels))
        view.settle()

    def _fill_table(self, drawn: Shares | None) -> None:
        header, rows = ([], []) if drawn is None else drawn.rows()
        self.shares_table.name_columns(header, range(len(header)))
        self.shares_table.show_rows(rows)

    def _on_selection(self, changed: frozenset[str]) -> None:
        if not self.isVisible() or changed & {"picked", "focus", "alone"}:
            self.redraw()
        elif "channel" in changed and self.below == "fitted":
            self._show_below()
        elif "channel" in changed:
            self.variable_view.set_cursor(self.desk.selection.look.channel)

    def _on_pointed(self, row: object) -> None:
        words = "Point at a line to read what it means and where it misleads; click it to keep so many."
        self.meaning.setText(words if row is None else f"{row.name}: {row.meaning}")  # type: ignore[attr-defined]

    def _on_component(self, component: int) -> None:
        found = self.desk.moment.found
        if found is not None and component < found.model.k:
            first, second = self.desk.selection.look.pair
            self.desk.selection.change(pair=(component, second if component != second else first))

    def _on_fitted_picked(self, rows: list[int], modifiers: Qt.KeyboardModifier) -> None:
        chart, table = self.fitted_view.chart, self.desk.moment.state.table
        marks = None if chart is None else chart.marks
        if marks is not None and table is not None and len(marks.keys) and marks.names[0] in table.ids:
            pick(self.desk.selection, rows, modifiers)

    def _on_share(self) -> None:
        self.share.setModified(False)
        text = self.share.text().replace("%", "").strip()
        settings = self.desk.study.state.recipe.evidence
        try:
            share = typed_number(text) / 100.0
        except ValueError:
            share = 0.0
        if not 0.0 < share < 1.0:
            self.desk.say(InputError(f"{text!r} is not a share.", "Type a percentage above 0 and below 100."))
            self.share.setText(shown(100.0 * settings.share))
        elif abs(share - settings.share) > 1e-12:
            self.desk.do(EvidenceBy(share))

    def _set_kind(self, kind: str) -> None:
        self.kind = kind
        self.refresh()

    def _set_below(self, kind: str) -> None:
        self.below = kind
        places = {"components": 0, "variance": 1, "importance": 1, "fitted": 2}
        self.below_stack.setCurrentIndex(places[kind])
        self._show_below()
