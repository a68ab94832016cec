"""The plane of the Blocks page: the consensus of the tables, or the scatter of a cell that was clicked."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from functools import partial

from scutcher.charts.blocks.check import score_columns
from scutcher.charts.blocks.consensus import beside, cell, consensus, pairs_of
from scutcher.charts.blocks.later import later_marks
from scutcher.charts.description import Chart
from scutcher.charts.emphasis import colouring_of
from scutcher.charts.memo import ChartMemo
from scutcher.core.arrays import Integers
from scutcher.core.blocks.fitting import FittedBlocks
from scutcher.core.blocks.later import Later
from scutcher.desk.context import Desk
from scutcher.desk.pages.blocks.work import BlocksWork
from scutcher.desk.pages.showing import emphasise
from scutcher.desk.pages.stacked_panel import StackedPanel
from scutcher.desk.painting.plane import PlaneView
from scutcher.desk.widgets.choice_menu import ChoiceMenu
from scutcher.desk.widgets.gestures import attend_plane

MOST = 6
"""Components that the menu pairs."""

Cell = Callable[[FittedBlocks, Integers, Integers], Chart]
"""The scatter of a cell from the tables of now, rows and classes of the common samples."""


class ConsensusPanel:
    """Two planes, one of which is seen.

    Attributes
    ----------
    pair : places of two components of the model
    """

    def __init__(self, desk: Desk, work: BlocksWork, turned: Callable[[], object]) -> None:
        self.desk, self.work, self._turned = desk, work, turned
        self.pair, self.spokes = (0, 1), "longest"
        self._cell: Cell | None = None
        self._later: Later | None = None
        self._marks: tuple[Integers, Integers] | None = None
        self._memo = ChartMemo()
        self.plane, self.scatter = PlaneView(), PlaneView()
        self.panel = StackedPanel(
            "Where the tables agree that a sample lies; a spoke to where each of them puts it.",
            self.plane,
            self.scatter,
        )
        self.pair_menu = ChoiceMenu("components ▾", "Which two components", self._fill_pairs)
        self.panel.add_to_header(self.pair_menu)
        self.spoke_words = self.panel.add_choices(
            {
                "longest": "longest|Spokes of samples on which the tables disagree",
                "all": "spokes|A spoke to each table's place, of every sample",
                "none": "none|No spokes",
            },
            self._set_spokes,
        )
        for view in (self.plane, self.scatter):
            attend_plane(view, desk.selection)

    def take(self, fitted: FittedBlocks) -> None:
        """Other components: the first two of them."""
        order = pairs_of(fitted)
        self.pair, self._cell = (order[0], order[1] if len(order) > 1 else order[0]), None

    def show(self, marks: tuple[Integers, Integers], later: Later | None) -> None:
        """What is known.

        Parameters
        ----------
        marks : the row of the current table that stands for each common sample, and its class
        later : samples that took no part, drawn hollow
        """
        self._marks, self._later = marks, later
        rows, codes = marks
        fitted, checked = self.work.fitted, self.work.checked
        if self._cell is not None and fitted is not None:
            self.panel.put(self.desk, self.scatter, self._cell(fitted, rows, codes))
            return
        colouring = colouring_of(self.desk.moment.state)
        inputs = (fitted, checked, self.pair, colouring, rows, self.spokes, later)

        def make() -> Chart:
            drawn = consensus(fitted, checked, self.pair, rows, codes, self.spokes)
            if fitted is None or later is None:
                return drawn
            return replace(drawn, ghosts=later_marks(fitted, later, self.pair))

        self.panel.put(self.desk, self.plane, self._memo.get("plane", inputs, make))

    def _again(self) -> None:
        if self._marks is not None:
            self.show(self._marks, self._later)

    def turn_to(self, component: int) -> None:
        """A component across, with what was across before up."""
        self._cell = None
        other = next((at for at in self.pair if at != component), component)
        self.pair = (component, other)
        self._again()

    def choose_pair(self, one: int, other: int) -> None:
        """Two components of the model on the plane."""
        self.pair, self._cell = (one, other), None
        self._again()
        self._turned()

    def show_cell(self, one: int, other: int) -> None:
        """Two block scores against each other, by their places in the check picture."""

        def scatter(fitted: FittedBlocks, rows: Integers, codes: Integers) -> Chart:
            columns = score_columns(fitted)
            across, up = ((columns[at].name, columns[at].values) for at in (one, other))
            return cell(fitted, across, up, rows, codes)

        self._cell = scatter
        self._again()

    def show_beside(self, column: str, component: int) -> None:
        """A column that took no part against a component."""
        self._cell = lambda fitted, rows, codes: beside(fitted, column, component, rows, codes)
        self._again()

    def emphasise(self, changed: frozenset[str]) -> None:
        """The pick, the class in focus and the mark under the pointer."""
        if changed & {"picked", "focus", "alone"}:
            emphasise(self.desk, (self.plane, self.scatter), self.desk.moment.state)
        if "hovered" in changed:
            self.plane.hover_mark(self.desk.selection.look.hovered)

    def _fill_pairs(self, menu: ChoiceMenu) -> None:
        fitted = self.work.fitted
        if fitted is None:
            return
        order = pairs_of(fitted)[:MOST]
        for place, one in enumerate(order):
            for other in order[place + 1 :]:
                names = [fitted.label(fitted.model.components[at]) for at in (one, other)]
                menu.add(" × ".join(names), self.pair == (one, other), partial(self.choose_pair, one, other))

    def _set_spokes(self, kind: str) -> None:
        self.spokes, self._cell = kind, None
        self._again()
