"""The right of the Series page: every pair by likeness, how many changes and when, verdicts on components."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PySide6.QtWidgets import QVBoxLayout

from scutcher.charts.memo import ChartMemo
from scutcher.charts.series.pairs import best_rows, triangle
from scutcher.charts.series.shifts import shift_rows
from scutcher.charts.series.two_variables import two_variables
from scutcher.charts.series.windows import growing, moving, verdict_rows
from scutcher.core.arrays import Floats
from scutcher.core.series.evolving_rank import moving_rank
from scutcher.desk.context import Desk
from scutcher.desk.kept_behind import Behind
from scutcher.desk.pages.series.hands import Hands
from scutcher.desk.pages.series.work import SeriesWork
from scutcher.desk.pages.showing import emphasise
from scutcher.desk.pages.stacked_panel import StackedPanel
from scutcher.desk.painting.pairs_view import PairsView
from scutcher.desk.painting.plane import PlaneView
from scutcher.desk.painting.strip import StripView
from scutcher.desk.widgets.choice_menu import ChoiceMenu
from scutcher.desk.widgets.figures_table import FiguresTable
from scutcher.desk.widgets.gestures import attend_plane
from scutcher.study.evaluation.series import Series

WIDE = 392
"""Pixels of the column."""

PAIRS = ["a", "b", "likeness", "z", "shift"]
VERDICTS = ["", "share / %", "along", "chance", "axis z", "says"]
SHIFTS = ["", "peak", "shift", "± 95 %"]
MOVING = 7
"""Spectra of a moving window at first."""
AT_ONCE = 1000
"""Spectra in all moving windows up to which they take less than a frame."""


class RightSide:
    """Reads the moment, the hands and the work."""

    def __init__(self, desk: Desk, work: SeriesWork, hands: Callable[[], Hands]) -> None:
        self.desk, self.work, self.hands = desk, work, hands
        self.top, self.bottom, self.joined, self.width = "pairs", "windows", False, MOVING
        self._memo = ChartMemo()
        self._ranks: Behind[Floats] = Behind(desk, "moving window", self.show_windows)
        self.pairs, self.two = PairsView(), PlaneView(mark_size=6.0)
        self.best = FiguresTable(PAIRS, range(5))
        self.best.itemSelectionChanged.connect(self._on_best)
        self.pair_chosen: Callable[[float, float], None] = lambda a, b: None
        self.pairs.pair_chosen.connect(lambda a, b: self.pair_chosen(a, b))
        self.pairs_panel = StackedPanel(
            "The difference of every pair, by its likeness to the reference: the cosine of both, without "
            "background. Left blank: no more than noise. Click a pair.",
            self.pairs,
            self.best,
            self.two,
        )
        self.top_words = self.pairs_panel.add_choices(
            {
                "pairs": "pairs|Every pair as a picture",
                "list": "best|The best pairs, no two of them neighbours; click one",
                "two": "two|Two variables, joined in their order: the first two picked channels",
            },
            self.choose_top,
        )
        self.windows, self.verdicts = StripView(), FiguresTable(VERDICTS, range(5))
        self.shifts = FiguresTable(SHIFTS, range(1, 4))
        self.windows_panel = StackedPanel(
            "Singular values of growing windows: a change has begun where a value rises out of the noise",
            self.windows,
            self.verdicts,
            self.shifts,
        )
        self.bottom_words = self.windows_panel.add_choices(
            {
                "windows": "growing|Windows from the first spectrum on, and from the last back",
                "moving": "moving|A window of fixed width",
                "components": "verdict|Which components go along the order, and which are noise",
                "shifts": "shifts|How far each spectrum was shifted by a fitted peak, with 95 % to each side",
            },
            self.choose_bottom,
        )
        self.more = ChoiceMenu("▾", "How windows are drawn", self._fill_more)
        self.windows_panel.add_to_header(self.more)
        attend_plane(self.two, desk.selection)
        for panel in (self.pairs_panel, self.windows_panel):
            panel.setFixedWidth(WIDE)

    def layout(self) -> QVBoxLayout:
        """The panels under each other."""
        column = QVBoxLayout()
        column.setSpacing(7)
        column.addWidget(self.pairs_panel, 100)
        column.addWidget(self.windows_panel, 76)
        return column

    @property
    def views(self) -> tuple[PairsView, PlaneView, StripView]:
        """Everything that draws a chart."""
        return self.pairs, self.two, self.windows

    def show_pairs(self) -> None:
        """The triangle, the list, or two variables."""
        series, pairs, hands = self.work.series, self.work.pairs, self.hands()
        if self.top == "two":
            state, channels = self.desk.moment.state, self.desk.selection.look.channels
            self.pairs_panel.put(self.desk, self.two, two_variables(state, series, channels))
            return
        if self.top == "list":
            note = f"like {hands.wanted.name}" if pairs is not None else self.work.why_not("pairs")
            self.pairs_panel.put_words(self.best, "Best pairs", note)
            self.best.blockSignals(True)
            self.best.show_rows([] if series is None else best_rows(series, pairs))
            self.best.blockSignals(False)
            return
        chart = self._memo.get(
            "pairs", (series, pairs, hands.wanted.name), lambda: triangle(series, pairs, hands.wanted.name)
        )
        why = self.work.why_not("pairs")
        if pairs is None and why:
            chart = triangle(None, None, "")
            chart = type(chart)(title=chart.title, empty=why)
        self.pairs_panel.put(self.desk, self.pairs, chart)
        self.show_pair(hands)

    def show_pair(self, hands: Hands) -> None:
        """The ring where a and b meet."""
        series = self.work.series
        if series is not None:
            a, b = hands.a.position(series), hands.b.position(series)
            signed = self.work.pairs is not None and self.work.pairs.signed
            self.pairs.show_pair(a if signed else min(a, b), b if signed else max(a, b))

    def show_windows(self) -> None:
        """Growing or moving windows, or the verdicts on components."""
        series, found = self.work.series, self.work.windows
        if self.bottom == "components":
            note = ""
            if series is not None:
                count = series.components.suggested
                note = f"{count} go along {series.order.quantity}"
                if series.smoothed:
                    note += "; z along the axis says nothing of smoothed spectra"
            self.windows_panel.put_words(self.verdicts, "Components", note)
            self.verdicts.show_rows([] if series is None else verdict_rows(series))
            return
        if self.bottom == "shifts":
            rows = shift_rows(self.desk.moment.found)
            words = "" if rows else "no step of the trail shifts to a peak"
            self.windows_panel.put_words(self.shifts, "Shifts", words)
            self.shifts.show_rows(rows)
            return
        if self.bottom == "moving":
            ranks = None if series is None else self._moving_of(series)
            of_moving = (series, self.width, ranks)
            chart = self._memo.get("moving", of_moving, partial(moving, *of_moving))
        else:
            inputs = (series, found, self.joined)
            chart = self._memo.get("growing", inputs, lambda: growing(series, found, self.joined))
        self.windows_panel.put(self.desk, self.windows, chart)

    def _moving_of(self, series: Series) -> Floats | None:
        """The singular values of the moving window; of a long series they come later."""
        width = min(self.width, len(series.rows))
        light = len(series.rows) * width <= AT_ONCE
        return self._ranks.of((series, width), lambda watch: moving_rank(series.values, width, watch), light)

    def emphasise(self) -> None:
        """Others stand out."""
        emphasise(self.desk, (self.two,), self.desk.moment.state)

    def choose_top(self, kind: str) -> None:
        """Pairs, the best of them, or two variables."""
        self.top = kind
        self.top_words[kind].setChecked(True)
        self.show_pairs()

    def choose_bottom(self, kind: str) -> None:
        """Windows or components."""
        self.bottom = kind
        self.bottom_words[kind].setChecked(True)
        self.show_windows()

    def _fill_more(self, menu: ChoiceMenu) -> None:
        menu.add("join first in with first out (an assumption)", self.joined, self._turn_joined)
        menu.line()
        for width in (3, 5, 7, 11, 15, 21):
            menu.add(f"moving window of {width}", self.width == width, partial(self._set_width, width))

    def _turn_joined(self) -> None:
        self.joined = not self.joined
        self.show_windows()

    def _set_width(self, width: int) -> None:
        self.width = width
        self.choose_bottom("moving")

    def _on_best(self) -> None:
        rows = {index.row() for index in self.best.selectedIndexes()}
        series, pairs = self.work.series, self.work.pairs
        if len(rows) == 1 and series is not None and pairs is not None:
            one, other = pairs.best(8)[rows.pop()]
            self.pair_chosen(float(series.positions[one]), float(series.positions[other]))
