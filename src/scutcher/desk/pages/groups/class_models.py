"""One model per class: who is accepted by which, two models against each other, who belongs where."""

from __future__ import annotations

from collections.abc import Callable
from contextlib import suppress
from dataclasses import replace as plain_replace
from typing import Any

import numpy as np
from msgspec.structs import replace
from PySide6.QtWidgets import (
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from scutcher.charts.class_models import (
    TELL_APART,
    accepted_square,
    left_out_words,
    models_finding,
    powers_chart,
    two_models,
)
from scutcher.charts.description import Chart, nothing
from scutcher.charts.emphasis import colouring_of
from scutcher.charts.new_on_classes import new_marks, new_words
from scutcher.core.errors import InputError
from scutcher.core.progress import Watch
from scutcher.core.recipes.recipe import Recipe
from scutcher.core.words import shown
from scutcher.desk.context import Desk, follow, follow_moment
from scutcher.desk.deferred import Soon
from scutcher.desk.pages.groups.class_table import ClassTable
from scutcher.desk.pages.groups.new_samples import NewSamplesOnClasses
from scutcher.desk.pages.groups.who_belongs import WhoBelongs
from scutcher.desk.pages.showing import View, emphasise, show
from scutcher.desk.painting.plane import PlaneView
from scutcher.desk.painting.strip import StripView
from scutcher.desk.widgets.columns import two_columns
from scutcher.desk.widgets.finding import Say
from scutcher.desk.widgets.gestures import attend_plane, attend_strip
from scutcher.desk.widgets.legend import ColumnChooser, LegendRow
from scutcher.desk.widgets.note import Note
from scutcher.desk.widgets.panel import ChartPanel, paper, word_button
from scutcher.desk.words import Words
from scutcher.study.document.commands.classes import ColourBy
from scutcher.study.document.commands.recipe import LimitBy
from scutcher.study.evaluation.checks import checks_key
from scutcher.study.evaluation.class_models import ClassModels, class_models

SLOT, POWERS_SLOT = "class models", "powers of class models"
POWER = (
    "√ of mean squared residuals of the two classes on each other's model over those on their own; "
    "modelling: 1 − s(e)/s(z)"
)
POWERS = {
    "discriminating": "tell apart|Residual of the other class's samples over that of the own, each variable",
    "modelling": "modelling|How much of each variable each model rebuilds",
}


class ModelsView(QWidget):
    """Each class with its own treatment, centre, scale, components and held-out limits."""

    def __init__(self, desk: Desk, say: Say) -> None:
        super().__init__()
        self.desk, self._say = desk, say
        self.found: ClassModels | None = None
        self.trouble = ""
        self.pair: tuple[int, int] = (0, 1)
        self.power_kind, self.shares = "discriminating", False
        self._inputs: tuple[Any, ...] = ()
        self._rows = np.empty(0, dtype=np.intp)

    def parts(self) -> tuple[Callable[[], None], ...]:
        """What makes its panels, one after the other."""
        return self._make_table, self._make_powers, self._make_right, self._arrange

    def _arrange(self) -> None:
        self.new = NewSamplesOnClasses(self.desk, self._show)
        two_columns(
            self,
            [(self.table_panel, 300), (self.powers_panel, 300)],
            [(self.plane_panel, 340), (self.listing.panel, 280)],
            (63, 42),  # so that a line of the list is seen whole
        )
        self.redraw = Soon(self.refresh, self)
        follow_moment(self, self.desk, self.redraw)
        follow(self, self.desk.selection, self._on_selection)
        self.redraw()

    def _make_table(self) -> None:
        self.table = ClassTable()
        self.table.chosen.connect(self._on_cell)
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setWidget(self.table)
        self.words = Words()
        self.words.setObjectName("quiet")
        self.words.setWordWrap(True)
        inside = QWidget()
        column = QVBoxLayout(inside)
        column.setContentsMargins(8, 0, 4, 2)
        column.addWidget(scroll, 1)
        column.addWidget(self.words)
        self.note = Note()
        self.chooser = ColumnChooser()
        self.chooser.column_chosen.connect(lambda column: self.desk.do(ColourBy(column)))
        self.switch = word_button("shares|Shares of the labelled class in place of counts")
        self.switch.toggled.connect(self._set_shares)
        self.robust = word_button(
            "robust limits|Median and quartiles of the held-out distances: few far samples widen no limit"
        )
        self.robust.clicked.connect(self._set_robust)
        title = Words("Accepted by each model")
        title.setToolTip(
            "Rows: samples as labelled, own ones held out. A sample is accepted where its joint distance is "
            "within the held-out limit of the model. Click a cell to pick those samples. Wold 1976."
        )
        self.table_panel = paper(title, inside, (self.note,), (self.chooser, self.robust, self.switch))

    def _make_powers(self) -> None:
        self.powers_view = StripView()
        attend_strip(self.powers_view, self.desk.selection)
        self.powers_panel = ChartPanel(self.powers_view, POWER)
        self.powers = self.powers_panel.add_choices(POWERS, self._set_power)

    def _make_right(self) -> None:
        self.plane = PlaneView()
        attend_plane(self.plane, self.desk.selection)
        self.plane_panel = ChartPanel(
            self.plane, "Joint distance of every sample to two models over their limits"
        )
        self.legend = LegendRow()
        self.plane_panel.add_below(self.legend)
        self.listing = WhoBelongs(self.desk, self, self.plane)

    @property
    def views(self) -> tuple[View, ...]:
        """Everything that draws a chart here."""
        return (self.powers_view, self.plane)

    # From the moment to the views

    def refresh(self) -> None:
        """Ask for the models of now, and show what there is."""
        moment = self.desk.moment
        found, state = moment.found, moment.state
        if found is None or state.table is None or not state.table.classes:
            self._show_nothing("Tag samples with a class (T), or name a class column when the file is read.")
            return
        names = [column.name for column in state.table.classes]
        column = state.colour_by if state.colour_by in names else names[0]
        self.chooser.show_columns(column, tuple(names))
        self.robust.setChecked(state.recipe.limits.joint == "robust")
        codes = state.table.class_column(column).codes()
        inputs = (checks_key(found), state.recipe.limits, column, codes.tobytes())
        if inputs != self._inputs:
            self._ask(inputs, column)
        self._show()

    def _ask(self, inputs: tuple[Any, ...], column: str) -> None:
        """Make the models behind; the newest wins."""
        self._inputs, self.found, self.trouble = inputs, None, ""
        state = self.desk.moment.state
        table, recipe = state.table, state.recipe
        assert table is not None
        self._rows = table.used_rows()

        def work(watch: Watch) -> ClassModels:
            made = class_models(table, _own_numbers(recipe), column, watch)
            with suppress(InputError):  # where they cannot be told, that is said in their place
                made.powers(*_first_two(made))
            return made

        def done(answer: Any) -> None:
            if inputs is not self._inputs:
                return
            if isinstance(answer, InputError):
                self.trouble = str(answer)
            elif isinstance(answer, Exception):
                raise answer
            else:
                self.found = answer
                self.pair = _first_two(answer)
            self._show()

        self.desk.live.ask(SLOT, None, work, done)

    def _show(self) -> None:
        found = self.found
        if found is None:
            self._show_nothing(self.trouble or "The models of the classes are being made …")
            return
        self.table.show_square(accepted_square(found, self.shares))
        level = 100.0 * found.models[0].saved.level
        self.note.setText(f"at the {shown(level)} % limit, own samples held out")
        self.words.setText(left_out_words(found))
        self.new.measure(found)
        self._say_finding(found)
        self._show_pair()
        self.listing.show(found, self.new.shown, self._rows)
        colouring = colouring_of(self.desk.moment.state)
        self.legend.show_colouring(colouring, self.desk.selection.look.focus)

    def _say_finding(self, found: ClassModels) -> None:
        """What was found; where there are new samples, of them too."""
        new = self.new.shown
        more = [] if new is None else [(new_words(new), ())]
        self._say([*models_finding(found, self._rows), *more])

    def _show_pair(self) -> None:
        found, state = self.found, self.desk.moment.state
        if found is None:
            return
        one, two = self.pair
        chart = two_models(found, one, two, self._rows)
        if self.new.shown is not None:
            chart = plain_replace(chart, ghosts=new_marks(self.new.shown, one, two))
        show(self.desk, self.plane_panel, self.plane, chart, state)
        if found.knows_powers(one, two):
            self._show_powers(powers_chart(found, one, two, self.power_kind))
        else:
            self._show_powers(nothing(TELL_APART, "The two models are being compared …"))
            self._find_powers(found)

    def _show_powers(self, chart: Chart) -> None:
        show(self.desk, self.powers_panel, self.powers_view, chart, self.desk.moment.state)

    def _find_powers(self, found: ClassModels) -> None:
        """What tells the two models apart, behind: samples of each class are projected onto both."""
        pair = self.pair

        def done(answer: Any) -> None:
            if found is not self.found or pair != self.pair:
                return
            if isinstance(answer, InputError):
                self._show_powers(nothing(TELL_APART, str(answer)))
            elif isinstance(answer, Exception):
                raise answer
            else:
                self._show_powers(powers_chart(found, *pair, self.power_kind))

        self.desk.live.ask(POWERS_SLOT, (found, pair), lambda watch: found.powers(*pair), done)

    def _show_nothing(self, words: str) -> None:
        self._say([(words, ())])
        self.table.show_square(None)
        self.note.setText("")
        self.words.setText(words)
        self.listing.show(None, self.new.shown, self._rows)
        state = self.desk.moment.state
        show(self.desk, self.plane_panel, self.plane, nothing("Distance to two models", words), state)
        self._show_powers(nothing(TELL_APART, ""))

    def _on_selection(self, changed: frozenset[str]) -> None:
        if not self.isVisible():
            self.redraw()
            return
        if changed & {"picked", "focus", "alone"}:
            emphasise(self.desk, self.views, self.desk.moment.state)
        if "hovered" in changed:
            self.plane.hover_mark(self.desk.selection.look.hovered)
        if "channel" in changed:
            self.powers_view.set_cursor(self.desk.selection.look.channel)

    # From the person

    def _on_cell(self, row: int, column: int) -> None:
        """Pick the samples of one class that the model of another accepts, and look at the two."""
        found = self.found
        if found is None:
            return
        places = {model.code: place for place, model in enumerate(found.models)}
        one, two = places[row], places[column]
        chosen = (found.acceptance.codes == one) & found.acceptance.inside[:, two]
        if one != two:
            self.pair = (one, two)
            self._show_pair()
        self.desk.selection.pick(self._rows[np.flatnonzero(chosen)].tolist())

    def _set_robust(self, on: bool) -> None:
        limits = self.desk.study.state.recipe.limits
        self.desk.do(LimitBy(replace(limits, joint="robust" if on else "moments")))

    def _set_power(self, kind: str) -> None:
        self.power_kind = kind
        self._show_pair()

    def _set_shares(self, on: bool) -> None:
        self.shares = on
        if self.found is not None:
            self.table.show_square(accepted_square(self.found, on))


def _first_two(found: ClassModels) -> tuple[int, int]:
    """The two models that are looked at before others are chosen."""
    return 0, min(1, len(found.models) - 1)


def _own_numbers(recipe: Recipe) -> Recipe:
    """The recipe with each class's own number of components."""
    return replace(recipe, model=replace(recipe.model, components=None))
