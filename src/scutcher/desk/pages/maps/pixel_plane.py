"""The scores of the pixels: a density on a pair of components, or a cloud of three that is turned by hand."""

from __future__ import annotations

from dataclasses import replace
from functools import partial
from itertools import combinations

import numpy as np
from PySide6.QtWidgets import QStackedWidget

from scutcher.charts.description import Chart
from scutcher.charts.emphasis import colouring_of
from scutcher.charts.memo import ChartMemo
from scutcher.charts.scores import scores, usable_pair
from scutcher.desk.context import Desk
from scutcher.desk.pages.showing import emphasise, show, strength_of
from scutcher.desk.painting.map_tools import Tool
from scutcher.desk.painting.plane import PlaneView
from scutcher.desk.painting.scores_space import TurnView
from scutcher.desk.widgets.choice_menu import ChoiceMenu
from scutcher.desk.widgets.gestures import attend_plane, pick
from scutcher.desk.widgets.panel import ChartPanel
from scutcher.study.evaluation.evaluation import Evaluation

CROWD = 2_000
"""More pixels than this are drawn as a density."""

DOTS = 20_000
"""Of more pixels in space every so many-th is drawn."""

MOST = 5
"""Components of which every pair is offered."""

TIP = (
    "Scores of the pixels, of very many as a density: darker where more lie, in the colour of the commonest "
    "class there. The tools at the top pick here too; “like it” picks the cloud that hangs together"
)


class PixelPlane:
    """Reads the moment and the look; tells the selection what hands do on it."""

    def __init__(self, desk: Desk) -> None:
        self.desk, self.in_space = desk, False
        self._memo = ChartMemo()
        self.plane, self.turn = PlaneView(mark_size=4.0, crowd=CROWD), TurnView(size=4.0)
        attend_plane(self.plane, desk.selection)
        self.turn.picked.connect(lambda rows, modifiers: pick(desk.selection, rows, modifiers))
        self.stack = QStackedWidget()
        for view in (self.plane, self.turn):
            self.stack.addWidget(view)
        self.panel = ChartPanel(self.stack, TIP)
        self.menu = ChoiceMenu("axes ▾", "Which components, on a plane or in space", self._fill)
        self.panel.add_to_header(self.menu)

    def show(self) -> None:
        """The pixels as the moment is."""
        state, found = self.desk.moment.state, self.desk.moment.found
        pair = self.desk.selection.look.pair
        inputs = (state.table, colouring_of(state), found and found.model, pair)
        chart = self._memo.get("plane", inputs, lambda: replace(scores(state, found, pair), title="Pixels"))
        show(self.desk, self.panel, self.plane, chart, state)
        if self.in_space and found is not None:
            self._show_space(found, chart)

    def _show_space(self, found: Evaluation, chart: Chart) -> None:
        marks = chart.marks
        if marks is None:
            return
        chosen = self._three(found)
        step = -(-len(marks.x) // DOTS)
        points = found.model.scores[::step][:, [min(a, found.model.k - 1) for a in chosen]].copy()
        points[:, np.array(chosen) >= found.model.k] = 0.0  # fewer than three components: flat
        names = (f"{chosen[0] + 1}", f"{chosen[1] + 1}", f"{chosen[2] + 1}")
        strength = strength_of(self.desk, chart, self.desk.moment.state)
        self.turn.show_points(points, marks.keys[::step], marks.codes[::step], strength[::step], names)
        self.panel.describe(replace(chart, note="drag to turn", x_title="", y_title="", rules=()))

    def _three(self, found: Evaluation) -> tuple[int, int, int]:
        """The pair, and the first component beside it."""
        one, other = usable_pair(found, self.desk.selection.look.pair)
        third = next((a for a in range(found.model.k) if a not in (one, other)), found.model.k)
        return one, other, third

    def emphasise(self) -> None:
        """Others stand out."""
        emphasise(self.desk, (self.plane,), self.desk.moment.state)
        found, chart = self.desk.moment.found, self.plane.chart
        if self.in_space and found is not None and chart is not None:
            self._show_space(found, chart)

    def set_tool(self, tool: Tool) -> None:
        """What a drag or a click means."""
        self.plane.hand.take_tool(tool)

    def _fill(self, menu: ChoiceMenu) -> None:
        found = self.desk.moment.found
        if found is None:
            return
        now = usable_pair(found, self.desk.selection.look.pair)
        for pair in combinations(range(min(found.model.k, MOST)), 2):
            words = f"{pair[0] + 1} × {pair[1] + 1}"
            menu.add(words, not self.in_space and pair == now, partial(self.choose, pair, False))
        menu.line()
        menu.add("in space, to be turned", self.in_space, partial(self.choose, now, True))

    def choose(self, pair: tuple[int, int], in_space: bool) -> None:
        """Other components, on a plane or in space."""
        self.in_space = in_space
        self.stack.setCurrentWidget(self.turn if in_space else self.plane)
        self.desk.selection.change(pair=pair)
        self.plane.chart = None  # its words stand around whichever is shown
        self.show()
