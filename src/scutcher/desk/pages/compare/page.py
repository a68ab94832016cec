"""Two models side by side: planes with tails, loadings laid over, figures, recipes in words, who moved."""

from __future__ import annotations

from functools import partial

import numpy as np
from PySide6.QtCore import QSignalBlocker, Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from scutcher.charts import colours
from scutcher.charts.comparing.figures import component_names, partner_words
from scutcher.charts.comparing.finding import finding
from scutcher.charts.comparing.planes import keys_in, loadings_over, planes
from scutcher.charts.comparing.recipes import recipe_words
from scutcher.charts.description import Chart, nothing
from scutcher.charts.emphasis import colouring_of
from scutcher.core.arrays import Integers
from scutcher.core.words import Shown, shown
from scutcher.desk.actions.class_clicks import ClassClicks
from scutcher.desk.context import Desk, follow
from scutcher.desk.deferred import Soon
from scutcher.desk.pages.compare.figures_panels import Figures, Moved
from scutcher.desk.pages.compare.recipes_panel import RecipesPanel
from scutcher.desk.pages.compare.work import CompareWork
from scutcher.desk.pages.overlay import Over
from scutcher.desk.pages.showing import emphasise, show
from scutcher.desk.painting.plane import PlaneView
from scutcher.desk.painting.strip import StripView
from scutcher.desk.widgets.combo import Combo
from scutcher.desk.widgets.finding import Finding
from scutcher.desk.widgets.gestures import attend_plane
from scutcher.desk.widgets.legend import LegendRow
from scutcher.desk.widgets.note import Note
from scutcher.desk.widgets.panel import ChartPanel
from scutcher.study.document.commands.recipe import UseRecipe
from scutcher.study.document.parts import TOGETHER, Model

AGREEMENT = (
    "Agreement of both planes, over all components, once B is turned onto A: {:.2f} of 1. Samples dealt out "
    "at random reach up to {:.2f}."
)
AS_NOW = "as it is now"

SIDE = 316
"""Pixels of the column at the right."""


class ComparePage(Over):
    """A is the model of now, or any other; B is turned onto it. One pick in both."""

    def __init__(self, desk: Desk, a: str, b: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.desk = desk
        self.chosen = [a, b]
        self.work = CompareWork(desk, self.refresh)
        self._asked: tuple[Model, ...] = ()
        self._common: Integers = np.empty(0, dtype=np.intp)
        self._make()
        self._arrange()
        self.redraw = Soon(self._on_change, self)
        follow(self, desk.live, lambda changed: self.redraw() if changed & {"evaluation", "state"} else None)
        follow(self, desk.selection, self._on_selection)
        self._on_change()

    def _make(self) -> None:
        self.finding = Finding(self.desk)
        self.views = (PlaneView(), PlaneView())
        self.panels = tuple(
            ChartPanel(view, words)
            for view, words in zip(
                self.views,
                (
                    "Scores of A. Tails lead to where a sample lies in B.",
                    "Scores of B, turned (rotation, reflection, one scale) onto those of A by least squares. "
                    "Schönemann & Carroll 1970.",
                ),
                strict=True,
            )
        )
        self.choosers = (Combo(), Combo())
        for place, (chooser, panel) in enumerate(zip(self.choosers, self.panels, strict=True)):
            chooser.setMaximumWidth(190)
            chooser.setToolTip("Which model is " + "AB"[place])
            chooser.activated.connect(partial(self._choose, place))
            panel.add_to_header(chooser)
            panel.title.setStyleSheet(f"color: {colours.COMPONENT_COLOURS[place]}; font-size: 15px;")
            attend_plane(self.views[place], self.desk.selection)
        self.legend = LegendRow()
        self.class_clicks = ClassClicks(self.legend, self.desk)
        self.strips = (StripView(), StripView())
        self.strip_panels = tuple(
            ChartPanel(strip, "What the components are made of; B's turned as its scores are", place == 1)
            for place, strip in enumerate(self.strips)
        )
        for strip in self.strips:
            strip.channel.connect(lambda channel: self.desk.selection.change(channel=channel))
        self.partners = Note()
        self.partners.setObjectName("quiet")
        self.figures, self.moved = Figures(), Moved(self._pick)
        self.recipes = RecipesPanel(self._take)

    def _arrange(self) -> None:
        swap, close = QPushButton("Swap A, B"), QPushButton("Close")
        swap.clicked.connect(self._swap)
        close.clicked.connect(self.done)
        close.setToolTip("Back to the page (Esc)")
        header = QHBoxLayout()
        header.setContentsMargins(4, 0, 0, 0)
        for widget, stretch in ((self.finding, 1), (swap, 0), (close, 0)):
            header.addWidget(widget, stretch)
        beside = QHBoxLayout()
        beside.setSpacing(7)
        for panel in self.panels:
            beside.addWidget(panel, 1)
        left = QVBoxLayout()
        left.setSpacing(7)
        left.addLayout(beside, 50)
        left.addWidget(self.legend)
        for panel in self.strip_panels:
            left.addWidget(panel, 22)
        left.addWidget(self.partners)
        right = QVBoxLayout()
        right.setSpacing(7)
        for frame, share in ((self.figures.frame, 36), (self.recipes, 28), (self.moved.frame, 36)):
            frame.setFixedWidth(SIDE)
            right.addWidget(frame, share)
        columns = QHBoxLayout()
        columns.setSpacing(7)
        columns.addLayout(left, 1)
        columns.addLayout(right)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(8, 6, 8, 7)
        layout.addLayout(header)
        layout.addLayout(columns, 1)

    def close_down(self) -> None:
        """Stop what is computed for it."""
        self.work.stop()

    # Which models

    def _models(self) -> list[Model]:
        """The current one first, then the shelf, the newest first."""
        state = self.desk.study.state
        now = [] if state.model is None else [state.model]
        return [*now, *reversed(state.shelf)]

    def _chosen(self) -> tuple[Model, ...]:
        models = {model.id: model for model in self._models()}
        return tuple(models[key] for key in self.chosen if key in models)

    def _choose(self, place: int, row: int) -> None:
        """Another model on one side; the one of the other side changes places with it."""
        key = self._models()[row].id
        if key == self.chosen[1 - place]:
            self.chosen.reverse()
        self.chosen[place] = key
        self._on_change()

    def _swap(self) -> None:
        self.chosen.reverse()
        self._on_change()

    def _take(self, place: int) -> None:
        """Go on with the recipe of one of them."""
        model = self._chosen()[place]
        if self.desk.do(UseRecipe(model.recipe, self._name(model))):
            self.done.emit()

    def _name(self, model: Model) -> str:
        return model.name or AS_NOW

    def _on_change(self) -> None:
        """A model was changed, put by, taken off or chosen."""
        models = self._models()
        left = {model.id for model in models}
        if len(left) < 2 or not left >= set(self.chosen):
            self.done.emit()
            return
        for place, chooser in enumerate(self.choosers):
            with QSignalBlocker(chooser):
                chooser.clear()
                chooser.addItems([self._name(model) for model in models])
                chooser.setCurrentIndex([model.id for model in models].index(self.chosen[place]))
        chosen, current = self._chosen(), self.desk.study.state.current
        if self._asked == chosen and (current not in self.chosen or self.work.compared is not None):
            if self.work.compared is not None:
                self.refresh()
            return
        self._asked = chosen
        self.work.ask(*chosen)
        self.refresh()

    # From the comparison to the views

    def refresh(self) -> None:
        """Draw what is known by now."""
        compared, state = self.work.compared, self.desk.study.state
        self.figures.waiting.setText("held out: computing…" if self.work.checking else "")
        if compared is None:
            self._show_nothing()
            return
        self._common = keys_in(state, compared.a.found.table, compared.rows_a)
        self.finding.show_pieces(finding(compared, self._common.tolist()))
        self._show_planes()
        self.figures.show_compared(compared)
        self.moved.show_compared(compared)
        names = component_names(compared.a), component_names(compared.b)
        words = f"Components by the angle of their scores: {partner_words(compared.pairs, names)}"
        if compared.shapes and compared.a.mixture is not None and compared.b.mixture is not None:
            shapes = partner_words(compared.shapes, (compared.a.mixture.names, compared.b.mixture.names))
            words += f" — shapes: {shapes}"
        self.partners.setText(words)
        self.recipes.show_words(
            recipe_words(compared),
            [model.id == state.current or model.kind == TOGETHER for model in self._chosen()],
        )

    def _show_nothing(self) -> None:
        trouble = self.work.trouble
        words = "Both models are being fitted…" if trouble is None else str(trouble)
        self.finding.show_pieces([(words, ())])
        for panel, view in zip((*self.panels, *self.strip_panels), (*self.views, *self.strips), strict=True):
            self._show(panel, view, nothing(panel.title.text(), ""))
        self.figures.show_compared(None)
        self.moved.show_compared(None)
        self.partners.setText("")

    def _show(self, panel: ChartPanel, view: PlaneView | StripView, chart: Chart) -> None:
        show(self.desk, panel, view, chart, self.desk.study.state)

    def _show_planes(self) -> None:
        compared, look, state = self.work.compared, self.desk.selection.look, self.desk.study.state
        if compared is None:
            return
        both = planes(state, compared, look.pair, look.picked)
        for panel, view, chart in zip(self.panels, self.views, (both.a, both.b), strict=True):
            self._show(panel, view, chart)
            panel.note.setText("")  # the name stands in the chooser
        self.legend.show_colouring(colouring_of(state), look.focus)
        turned = compared.turned
        self.panels[1].note.setText(f"agreement {shown(turned.agreement, '.2f')}")
        self.panels[1].note.setToolTip(AGREEMENT.format(Shown(turned.agreement), Shown(turned.by_chance)))
        for panel, strip, part in zip(self.strip_panels, self.strips, look.pair, strict=True):
            self._show(panel, strip, loadings_over(compared, part))

    # Picks

    def _on_selection(self, changed: frozenset[str]) -> None:
        if changed & {"picked", "pair"}:
            self._show_planes()
        if changed & {"focus", "alone"}:
            self.legend.show_colouring(colouring_of(self.desk.study.state), self.desk.selection.look.focus)
        if changed & {"picked", "focus", "alone"}:
            emphasise(self.desk, self.views, self.desk.study.state)
        if "channel" in changed:
            for strip in self.strips:
                strip.set_cursor(self.desk.selection.look.channel)

    def _pick(self, places: list[int]) -> None:
        """Pick samples in both planes, by places in the comparison; those of another table have no row."""
        keys = self._common[places]
        self.desk.selection.pick(keys[keys >= 0].tolist())

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """X changes A and B."""
        if event.key() == Qt.Key.Key_X and not event.modifiers():
            self._swap()
        else:
            super().keyPressEvent(event)
