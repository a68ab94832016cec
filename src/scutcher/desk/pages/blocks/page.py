"""The Blocks page: shares, consensus, scores against scores, outside columns, who disagrees, loadings."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from functools import partial
from pathlib import Path
from typing import Any

import numpy as np
from PySide6.QtCore import QPoint
from PySide6.QtWidgets import QHBoxLayout, QSizePolicy, QVBoxLayout, QWidget

from scutcher.charts.blocks.check import check_chart, score_columns
from scutcher.charts.blocks.consensus import cell, consensus, pairs_of
from scutcher.charts.blocks.finding import finding
from scutcher.charts.blocks.ladder import block_ladder
from scutcher.charts.blocks.later import later_marks, later_order, later_strip
from scutcher.charts.blocks.shares import share_bars
from scutcher.charts.blocks.tables import loading_strip, outside_rows, why_strip
from scutcher.charts.colours import CONTINUOUS
from scutcher.charts.description import Chart, nothing
from scutcher.charts.emphasis import colouring_of
from scutcher.charts.memo import ChartMemo
from scutcher.core.arrays import Integers
from scutcher.core.blocks.checking import CheckedBlocks
from scutcher.core.blocks.fitting import FittedBlocks
from scutcher.core.blocks.later import Later
from scutcher.core.blocks.saved_blocks import saved_blocks
from scutcher.core.data.table import Table
from scutcher.core.errors import InputError
from scutcher.desk.actions.outcome import ask_path, tried
from scutcher.desk.context import Desk, follow
from scutcher.desk.deferred import Soon
from scutcher.desk.pages.blocks.below import BlocksBelow
from scutcher.desk.pages.blocks.choices import BlockChoices
from scutcher.desk.pages.blocks.listing import Listing
from scutcher.desk.pages.blocks.work import BlocksWork
from scutcher.desk.pages.declaration import PageView
from scutcher.desk.pages.showing import emphasise, show
from scutcher.desk.pages.stacked_panel import NOBODY, StackedPanel
from scutcher.desk.painting.grid import GridView
from scutcher.desk.painting.plane import PlaneView
from scutcher.desk.painting.share_bars import ShareBars
from scutcher.desk.painting.strip import StripView
from scutcher.desk.widgets.choice_menu import ChoiceMenu
from scutcher.desk.widgets.figures_table import FiguresTable
from scutcher.desk.widgets.finding import Finding
from scutcher.desk.widgets.gestures import attend_plane
from scutcher.desk.widgets.panel import ChartPanel, choice_words, paper
from scutcher.files.blocks_json import write_blocks_model
from scutcher.study.document.commands.blocks import PutTogetherBy
from scutcher.study.evaluation.blocks import members_of, reached_by, rows_of

MOST_STRIPS = 5
NAMES = 104
"""Pixels of the names beside the scores against scores."""


class BlocksPage(PageView):
    """Reads the moment; the blocks are computed behind, the fit first, then what is found out beside it."""

    takes_several_tables = True

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.desk = desk
        self.choices = BlockChoices(desk)
        self.work = BlocksWork(desk, self._on_work)
        self._drawn: FittedBlocks | None = None
        self._new: Later | None = None
        self.pair, self.spokes, self.held_out = (0, 1), "longest", False
        self.chosen_cell: tuple[int, int] | None = None
        self.why_of: tuple[int, int] | None = None
        self.later_of = ""
        self._rows: tuple[Integers, ...] = ()
        self._memo = ChartMemo()
        self.finding = Finding(desk)
        self.in_bottom_bar = self.ladder = BlocksBelow(self.choices)
        self._make_views()
        self._arrange()
        self.redraw = Soon(self.refresh, self)
        follow(self, desk.live, self._on_live)
        follow(self, desk.selection, self._on_selection)
        self.refresh()

    # What is on the page

    def _make_views(self) -> None:
        self.bars = ShareBars()
        self.plane, self.scatter = PlaneView(), PlaneView()
        self.plane_panel = StackedPanel(
            "Where the tables agree that a sample lies; a spoke to where each of them puts it.",
            self.plane,
            self.scatter,
        )
        self.pair_menu = ChoiceMenu("components ▾", "Which two components", self._fill_pairs)
        self.plane_panel.add_to_header(self.pair_menu)
        self.spoke_words = self.plane_panel.add_choices(
            {
                "longest": "longest|Spokes of samples on which the tables disagree",
                "all": "spokes|A spoke to each table's place, of every sample",
                "none": "none|No spokes",
            },
            self._set_spokes,
        )
        attend_plane(self.plane, self.desk.selection)
        attend_plane(self.scatter, self.desk.selection)
        self.check = GridView()
        self.check_panel = ChartPanel(
            self.check, "Correlations of all block scores. Click a cell: its scatter", bottom_title=False
        )
        self.check.clicked_at.connect(self._on_cell)
        self.check.ground.invertY(True)
        self.check.hide_figures()
        self.check.left_axis.setWidth(NAMES)
        self.outside = FiguresTable()
        self.listing = Listing(self.work, self._on_listed, self._on_turned)
        self.strips = [StripView() for _ in range(MOST_STRIPS)]
        self.strip_panels = [
            ChartPanel(strip, "What the two components on the plane are made of in this table")
            for strip in self.strips
        ]
        for strip in self.strips:
            strip.setMinimumHeight(40)
            strip.channel.connect(partial(self._on_channel, strip))

    def _arrange(self) -> None:
        tip = "Which tables, how matched, how many components"
        self.menu = ChoiceMenu("tables ▾", tip, self.choices.fill)
        header = QHBoxLayout()
        header.setContentsMargins(4, 0, 0, 0)
        header.addWidget(self.finding, 1)
        header.addWidget(self.menu)
        words = choice_words(
            self,
            {
                "fitted": "fitted|Shares of the variance of each table",
                "held": "held out|What each table's components explain of samples that were left out",
            },
            self._set_held_out,
        )
        shares = paper("What the tables share", self.bars, (), tuple(words.values()))
        outside_paper = paper("Outside columns", self.outside)
        outside_paper.setToolTip(
            "Columns that took no part in the model: r of numbers, η (root of the share explained) of "
            "classes; * past chance over all of them (Holm, 5 %)"
        )
        for panel in (shares, outside_paper):
            panel.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Ignored)
        left_low, left, right = QHBoxLayout(), QVBoxLayout(), QVBoxLayout()
        left_low.addWidget(self.check_panel, 55)
        left_low.addWidget(outside_paper, 45)
        shares.setMinimumHeight(136)
        left.addWidget(shares, 30)
        left.addLayout(left_low, 52)
        right.addWidget(self.plane_panel, 60)
        right.addWidget(self.listing.panel, 26)
        top, strips = QHBoxLayout(), QHBoxLayout()
        top.addLayout(left, 50)
        top.addLayout(right, 50)
        for panel in self.strip_panels:
            strips.addWidget(panel, 1)
        for layout in (left_low, left, right, top, strips):
            layout.setSpacing(7)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(8, 5, 8, 7)
        whole.setSpacing(5)
        whole.addLayout(header)
        whole.addLayout(top, 76)
        whole.addLayout(strips, 28)

    def ask_save(self) -> None:
        """Ask where the model goes, with which `scutcher apply` judges new samples."""
        ask_path(self, "Save the model of these tables", "model.json", "JSON (*.json)", self.save)

    def save(self, path: Path) -> bool:
        """Write the model of the tables as they are now."""
        fitted = self.fitted
        if fitted is None:
            self.desk.say(InputError("The tables are not compared yet.", "Wait a moment."))
            return False
        return tried(self.desk, lambda: write_blocks_model(path, saved_blocks(fitted)))

    def views(self) -> Sequence[Any]:
        """Everything that draws a chart here."""
        shown = [strip for strip in self.strips if strip.isVisible()]
        return [view for view in (self.plane, self.scatter, self.check) if view.isVisible()] + shown

    # From the moment to the views

    @property
    def fitted(self) -> FittedBlocks | None:
        """The blocks of now, where they are known."""
        return self.work.fitted

    @property
    def checked(self) -> CheckedBlocks | None:
        """What was found out beside them."""
        return self.work.checked

    def refresh(self) -> None:
        """Compute what is other, and draw."""
        if not self.work.keep_up() and self.fitted is not None:
            self._rows = rows_of(self.desk.moment.state, self.fitted)
        self.show_all()

    def _on_work(self) -> None:
        """Something has arrived."""
        if self.fitted is not None and self.fitted is not self._drawn:
            self._take(self.fitted)
        self._drawn = self.fitted
        if self.work.new is not None and self.work.new is not self._new:
            self.listing.kind = "new"
            self.listing.words["new"].setChecked(True)
        self._new = self.work.new
        if self.work.trouble is not None:
            self.finding.show_pieces([(f"{self.work.trouble.problem} {self.work.trouble.remedy}", ())])
        self.show_all()

    def _take(self, fitted: FittedBlocks) -> None:
        before, self.choices.fitted = self._drawn, fitted
        self._rows = rows_of(self.desk.moment.state, fitted)
        labels = [fitted.label(one) for one in fitted.model.components]
        old = [] if before is None else [before.label(one) for one in before.model.components]
        if labels != old:
            order = pairs_of(fitted)
            self.pair = (order[0], order[1] if len(order) > 1 else order[0])
            self.chosen_cell = self.why_of = None

    def put_by(self) -> bool:
        """Put the comparison of the tables on the shelf."""
        fitted, state = self.fitted, self.desk.moment.state
        if fitted is not None:
            members = tuple(one.model for one in members_of(state))
            codes = self._marks()[1]
            reached = reached_by(fitted, self.checked, np.where(codes < CONTINUOUS, codes, -1))
            self.desk.do(PutTogetherBy(" & ".join(fitted.names), members, reached))
        return True

    def bring_tables(self, tables: Sequence[Table]) -> None:
        """New samples, a table for each block in which they were measured."""
        self.work.bring(tables)

    def takes_new_samples(self, place: QPoint) -> bool:
        """Anywhere on the page."""
        return self.fitted is not None

    def show_all(self) -> None:
        """Everything as it is known now."""
        fitted, checked = self.fitted, self.checked
        self.bars.show_bars(() if fitted is None else share_bars(fitted, checked, self.held_out))
        if fitted is not None:
            pieces = finding(fitted, checked, [rows.tolist() for rows in self._rows])
            self.finding.show_pieces(pieces, [fitted.matched.said(), *fitted.warnings()])
        elif not self.finding.text():
            self.finding.show_pieces([("Two tables with eight common samples make blocks.", ())])
        chart = self._memo.get("check", (fitted,), lambda: check_chart(fitted))
        if self.check.chart is not chart:
            self.check_panel.describe(chart)
            self.check.show_chart(chart, NOBODY)
        header, rows = outside_rows(fitted, checked)
        self.outside.name_columns(header, range(1, len(header)))
        self.outside.show_rows(rows)
        self.listing.show()
        groups = () if fitted is None else block_ladder(fitted, checked, self.work.steady)
        settings = self.desk.moment.state.blocks
        self.ladder.show_groups(groups, bool(settings.ranks or settings.counts))
        self.show_plane()
        self.show_strips()

    def show_plane(self) -> None:
        """Consensus, or the scatter of a cell."""
        fitted, state = self.fitted, self.desk.moment.state
        rows, codes = self._marks()
        colouring = colouring_of(state)
        if self.chosen_cell is not None and fitted is not None:
            columns = score_columns(fitted)
            one, other = (columns[place] for place in self.chosen_cell)
            chart = cell(fitted, (one.name, one.values), (other.name, other.values), rows, codes)
            self.plane_panel.put(self.desk, self.scatter, chart)
            return
        later = self.listing.later
        inputs = (fitted, self.checked, self.pair, colouring, rows, self.spokes, later)

        def make() -> Chart:
            drawn = consensus(fitted, self.checked, self.pair, rows, codes, self.spokes)
            if fitted is None or later is None:
                return drawn
            return replace(drawn, ghosts=later_marks(fitted, later, self.pair))

        self.plane_panel.put(self.desk, self.plane, self._memo.get("plane", inputs, make))

    def _marks(self) -> tuple[Integers, Integers]:
        """The row of the current table that stands for each common sample, and its class."""
        codes = colouring_of(self.desk.moment.state).codes
        rows = np.array([int(own[0]) if len(own) else -1 for own in self._rows], dtype=np.intp)
        shown = np.where(rows >= 0, codes[np.maximum(rows, 0)] if len(codes) else -1, -1)
        return rows, np.asarray(shown, dtype=np.intp)

    def show_strips(self) -> None:
        """Loadings of each table, why a sample lies elsewhere, or one that took no part."""
        fitted, later = self.fitted, self.listing.later
        sample = self.later_of if later is not None else ""
        count = 0 if fitted is None else len(fitted.names)
        for b, (strip, panel) in enumerate(zip(self.strips, self.strip_panels, strict=True)):
            panel.setVisible(b < count)
            if b < count and fitted is not None:
                why, key = self.why_of, (fitted, b, self.pair, self.why_of, later, sample)

                def make(b: int = b, why: tuple[int, int] | None = why) -> Chart:
                    assert fitted is not None
                    if later is not None and sample:
                        return later_strip(fitted, later, b, sample)
                    return loading_strip(fitted, b, self.pair) if why is None else why_strip(fitted, b, *why)

                show(self.desk, panel, strip, self._memo.get(f"strip {b}", key, make), self.desk.moment.state)
        if not count:
            panel = self.strip_panels[0]
            panel.setVisible(True)
            panel.describe(nothing("Loadings", ""))

    def _on_live(self, changed: frozenset[str]) -> None:
        if changed & {"evaluation", "state", "trouble"}:
            self.redraw()

    def _on_selection(self, changed: frozenset[str]) -> None:
        if not self.isVisible():
            return
        if changed & {"picked", "focus", "alone"}:
            emphasise(self.desk, (self.plane, self.scatter), self.desk.moment.state)
        if "hovered" in changed:
            self.plane.hover_mark(self.desk.selection.look.hovered)

    # From hands

    def _fill_pairs(self, menu: ChoiceMenu) -> None:
        if self.fitted is None:
            return
        order = pairs_of(self.fitted)[:6]
        for place, one in enumerate(order):
            for other in order[place + 1 :]:
                names = [self.fitted.label(self.fitted.model.components[at]) for at in (one, other)]
                menu.add(" × ".join(names), self.pair == (one, other), partial(self.choose_pair, one, other))

    def choose_pair(self, one: int, other: int) -> None:
        """Two components of the model on the plane."""
        self.pair, self.chosen_cell, self.why_of = (one, other), None, None
        self.show_plane()
        self.show_strips()

    def _set_spokes(self, kind: str) -> None:
        self.spokes, self.chosen_cell = kind, None
        self.show_plane()

    def _set_held_out(self, kind: str) -> None:
        self.held_out = kind == "held"
        self.show_all()

    def _on_cell(self, column: int, row: int) -> None:
        self.chosen_cell = (column, row)
        self.show_plane()

    def _on_channel(self, strip: StripView, channel: float | None) -> None:
        strip.set_cursor(channel)

    def _on_turned(self) -> None:
        self.why_of, self.later_of = None, ""
        self.show_all()

    def _on_listed(self, row: int) -> None:
        """A row of the list: why its sample lies elsewhere, or what its tables say."""
        later = self.listing.later
        if later is not None:
            order = later_order(later)
            self.later_of = later.new.ids[order[row]] if row < len(order) else ""
            self.show_strips()
        elif self.checked is not None and row < len(self.checked.apart):
            one = self.checked.apart[row]
            self.why_of, self.chosen_cell = (one.row, one.component), None
            other = next((at for at in self.pair if at != one.component), one.component)
            self.pair = (one.component, other)
            self.show_plane()
            self.show_strips()
            if len(self._rows[one.row]):
                self.desk.selection.pick(self._rows[one.row].tolist())

    def pick_first(self) -> None:
        """The sample on which the tables disagree most, and why."""
        if self.listing.kind != "apart":
            self.listing.turn("apart")
        if self.listing.table.rowCount():
            self.listing.table.choose_row(0)
