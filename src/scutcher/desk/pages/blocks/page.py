"""The Blocks page: shares, consensus, scores against scores, outside columns, who disagrees, loadings."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from pathlib import Path
from typing import Any

import numpy as np
from PySide6.QtCore import QPoint
from PySide6.QtWidgets import QHBoxLayout, QSizePolicy, QVBoxLayout, QWidget

from scutcher.charts.blocks.check import check_chart
from scutcher.charts.blocks.finding import finding
from scutcher.charts.blocks.ladder import block_ladder
from scutcher.charts.blocks.later import later_order
from scutcher.charts.blocks.shares import share_bars
from scutcher.charts.blocks.tables import outside_rows
from scutcher.charts.colours import CONTINUOUS
from scutcher.charts.emphasis import colouring_of
from scutcher.charts.memo import ChartMemo
from scutcher.core.arrays import Integers
from scutcher.core.blocks.checking import CheckedBlocks
from scutcher.core.blocks.fitting import FittedBlocks
from scutcher.core.data.table import Table
from scutcher.desk.actions.outcome import ask_path
from scutcher.desk.context import Desk, follow
from scutcher.desk.deferred import Soon
from scutcher.desk.pages.blocks.below import BlocksBelow
from scutcher.desk.pages.blocks.choices import BlockChoices
from scutcher.desk.pages.blocks.consensus_panel import ConsensusPanel
from scutcher.desk.pages.blocks.listing import Listing
from scutcher.desk.pages.blocks.saving import save_model
from scutcher.desk.pages.blocks.strips import BlockStrips, Shown
from scutcher.desk.pages.blocks.work import BlocksWork
from scutcher.desk.pages.declaration import PageView
from scutcher.desk.pages.stacked_panel import NOBODY
from scutcher.desk.painting.grid import GridView
from scutcher.desk.painting.share_bars import ShareBars
from scutcher.desk.widgets.choice_menu import ChoiceMenu
from scutcher.desk.widgets.figures_table import FiguresTable
from scutcher.desk.widgets.finding import Finding
from scutcher.desk.widgets.panel import ChartPanel, choice_words, paper
from scutcher.study.document.commands.blocks import PutTogetherBy
from scutcher.study.evaluation.blocks import members_of, reached_by, rows_of

NAMES = 104
"""Pixels of the names beside the scores against scores."""


class BlocksPage(PageView):
    """Reads the moment; the blocks are computed behind, the fit first, then what is found out beside it."""

    takes_several_tables = True

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.desk = desk
        self._drawn: FittedBlocks | None = None
        self.held_out = False
        self.why_of: tuple[int, int] | None = None
        self.later_of = ""
        self._rows: tuple[Integers, ...] = ()
        self._memo = ChartMemo()

    def build(self) -> Iterator[None]:
        """What the tables share, block by block."""
        desk = self.desk
        self.choices = BlockChoices(desk)
        self.work = BlocksWork(desk, self._on_work)
        self.finding = Finding(desk)
        self.in_bottom_bar = self.ladder = BlocksBelow(self.choices)
        self._make_views()
        yield
        self._arrange()
        self.redraw = Soon(self.refresh, self)
        follow(self, desk.live, self._on_live)
        follow(self, desk.selection, self._on_selection)

    # What is on the page

    def _make_views(self) -> None:
        self.bars = ShareBars()
        self.consensus = ConsensusPanel(self.desk, self.work, self._on_pair)
        self.check = GridView()
        self.check_panel = ChartPanel(
            self.check, "Correlations of all block scores. Click a cell: its scatter", bottom_title=False
        )
        self.check.clicked_at.connect(self.consensus.show_cell)
        self.check.ground.invertY(True)
        self.check.hide_figures()
        self.check.left_axis.setWidth(NAMES)
        self.outside = FiguresTable()
        self.outside.cellClicked.connect(self._on_outside)
        self.listing = Listing(self.work, self._on_listed, self._on_turned)
        self.loadings = BlockStrips(self.desk)

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
            "classes; * past chance over all of them (Holm, 5 %). Click a cell: its scatter"
        )
        for panel in (shares, outside_paper):
            panel.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Ignored)
        left_low, left, right = QHBoxLayout(), QVBoxLayout(), QVBoxLayout()
        left_low.addWidget(self.check_panel, 55)
        left_low.addWidget(outside_paper, 45)
        shares.setMinimumHeight(136)
        left.addWidget(shares, 30)
        left.addLayout(left_low, 52)
        right.addWidget(self.consensus.panel, 60)
        right.addWidget(self.listing.panel, 26)
        top, strips = QHBoxLayout(), QHBoxLayout()
        top.addLayout(left, 50)
        top.addLayout(right, 50)
        for panel in self.loadings.panels:
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
        return save_model(self.desk, self.fitted, path)

    def views(self) -> Sequence[Any]:
        """Everything that draws a chart here."""
        shown = [strip for strip in self.loadings.strips if strip.isVisible()]
        planes = (self.consensus.plane, self.consensus.scatter, self.check)
        return [view for view in planes if view.isVisible()] + shown

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
        if self.work.trouble is not None:
            self.finding.show_pieces([(f"{self.work.trouble.problem} {self.work.trouble.remedy}", ())])
        self.show_all()

    def _take(self, fitted: FittedBlocks) -> None:
        before, self.choices.fitted = self._drawn, fitted
        self._rows = rows_of(self.desk.moment.state, fitted)
        labels = [fitted.label(one) for one in fitted.model.components]
        old = [] if before is None else [before.label(one) for one in before.model.components]
        if labels != old:
            self.consensus.take(fitted)
        if labels != old or before is None or before.matched.ids != fitted.matched.ids:
            self.why_of = None  # another sample stands at its place

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
        self.listing.wanted = "new"
        self.work.bring(tables)

    def takes_new_samples(self, place: QPoint) -> bool:
        """Anywhere on the page."""
        return self.fitted is not None

    def show_all(self) -> None:
        """Everything as it is known now."""
        fitted, checked = self.fitted, self.checked
        steady, settings = self.work.steady, self.desk.moment.state.blocks
        self.bars.show_bars(() if fitted is None else share_bars(fitted, checked, self.held_out, steady))
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
        groups = () if fitted is None else block_ladder(fitted, checked, steady)
        self.ladder.show_groups(groups, bool(settings.ranks or settings.counts))
        self.consensus.show(self._marks(), self.listing.later)
        self.show_strips()

    def _marks(self) -> tuple[Integers, Integers]:
        """The row of the current table that stands for each common sample, and its class."""
        codes = colouring_of(self.desk.moment.state).codes
        rows = np.array([int(own[0]) if len(own) else -1 for own in self._rows], dtype=np.intp)
        shown = np.where(rows >= 0, codes[np.maximum(rows, 0)] if len(codes) else -1, -1)
        return rows, np.asarray(shown, dtype=np.intp)

    def show_strips(self) -> None:
        """Loadings of each table, why a sample lies elsewhere, or one that took no part."""
        later = self.listing.later
        sample = self.later_of if later is not None else ""
        self.loadings.show(Shown(self.fitted, self.consensus.pair, self.why_of, later, sample))

    def _on_live(self, changed: frozenset[str]) -> None:
        if changed & {"evaluation", "state", "trouble"}:
            self.redraw()

    def _on_selection(self, changed: frozenset[str]) -> None:
        if self.isVisible():
            self.consensus.emphasise(changed)

    # From hands

    def _on_pair(self) -> None:
        """Other components are on the plane."""
        self.why_of = None
        self.show_strips()

    def _set_held_out(self, kind: str) -> None:
        self.held_out = kind == "held"
        self.show_all()

    def _on_outside(self, row: int, column: int) -> None:
        """The scatter of a column against the component of a cell."""
        fitted = self.fitted
        if fitted is None or column < 1:
            return
        shared = [place for place, one in enumerate(fitted.model.components) if len(one.blocks) > 1]
        self.consensus.show_beside(self.outside.cell(row, 0).text(), shared[column - 1])

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
            self.why_of = (one.row, one.component)
            self.consensus.turn_to(one.component)
            self.show_strips()
            rows = rows_of(self.desk.moment.state, self.fitted) if self.fitted is not None else ()
            if one.row < len(rows) and len(rows[one.row]):  # of the table of now, drawn here or not yet
                self.desk.selection.pick(rows[one.row].tolist())

    def pick_first(self) -> None:
        """The sample on which the tables disagree most, and why."""
        if self.listing.kind != "apart":
            self.listing.turn("apart")
        if self.listing.table.rowCount():
            self.listing.table.choose_row(0)
