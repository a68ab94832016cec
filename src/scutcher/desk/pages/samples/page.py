"""The Samples page: the signals as brought in, the roster beside them, the variables below."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np
from PySide6.QtCore import QSignalBlocker, Qt
from PySide6.QtWidgets import (
    QHBoxLayout,
    QLineEdit,
    QPushButton,
    QSlider,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from scutcher.charts.definitions import DEFINITIONS
from scutcher.charts.description import nothing
from scutcher.charts.emphasis import colouring_of
from scutcher.charts.page_findings.samples import finding
from scutcher.charts.signals import signals
from scutcher.charts.variables import sample_picture, samples_a_row
from scutcher.core.computed_once import computed_once
from scutcher.core.data.findings import findings
from scutcher.desk.actions.class_clicks import ClassClicks
from scutcher.desk.context import Desk, follow
from scutcher.desk.deferred import InTurns, Soon
from scutcher.desk.kept_behind import KeptBehind
from scutcher.desk.pages.declaration import PageView
from scutcher.desk.pages.samples.roster import Roster
from scutcher.desk.pages.samples.variables_side import VariablesSide
from scutcher.desk.pages.showing import strength_of
from scutcher.desk.painting.grid import GridView
from scutcher.desk.painting.plane import PlaneView
from scutcher.desk.painting.strip import StripView
from scutcher.desk.widgets.finding import Finding, under
from scutcher.desk.widgets.gestures import attend_strip
from scutcher.desk.widgets.legend import ColumnChooser, LegendRow, colour_columns
from scutcher.desk.widgets.panel import ChartPanel, paper
from scutcher.study.document.commands.classes import ColourBy
from scutcher.study.document.commands.data import AverageReplicates

IMAGE = "image|Every sample as a row of a picture"

LOOKS = 8
"""Passes over the values that looking them over takes."""


class SamplesPage(PageView):
    """What was brought in: every sample and every variable."""

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.desk = desk
        self.offset, self.means, self.as_image = 0.0, False, False

    def build(self) -> Iterator[None]:
        """Signals, variables and roster."""
        self._make_signals()
        yield
        self.side = VariablesSide(self.desk)
        yield
        self._make_roster()
        yield
        self._arrange()
        yield
        self._picture = KeptBehind(self.desk, "picture of samples", sample_picture, self._show_image)
        self._looked_over = KeptBehind(self.desk, "samples findings", findings, self._show_finding)
        self.redraw, self._turns = Soon(self.refresh, self), InTurns(self)
        follow(self, self.desk.study, lambda changed: self.redraw())
        follow(self, self.desk.selection, self._on_selection)
        if self.desk.has_much:  # the tables after the rest
            self._turns.run((self.side.variables.refresh, *self.roster.parts()), apart=True)

    def _arrange(self) -> None:
        self._signals = QStackedWidget()
        self._signals.addWidget(self.signals_panel)
        left = QVBoxLayout()
        left.setSpacing(7)
        left.addWidget(self._signals, 58)
        left.addWidget(self.side, 42)
        self.finding = Finding(self.desk)
        layout = QHBoxLayout()
        layout.setSpacing(7)
        layout.addLayout(left, 56)
        layout.addWidget(self.roster_panel, 49)
        under(self.finding, layout, self)

    def _make_signals(self) -> None:
        self.view = StripView()
        attend_strip(self.view, self.desk.selection)
        self.view.ranged.connect(lambda low, high: self.side.choose_range(low, high))
        self.signals_panel = ChartPanel(self.view, DEFINITIONS["signals"])
        self.signals_panel.readout.show()
        self.chooser = ColumnChooser()
        self.chooser.column_chosen.connect(lambda column: self.desk.do(ColourBy(column)))
        self.signals_panel.add_to_header(self.chooser)
        self.slider = QSlider(Qt.Orientation.Horizontal)
        self.slider.setRange(0, 100)
        self.slider.setMinimumWidth(40)
        self.slider.setMaximumWidth(90)
        self.slider.setAccessibleName("How far lines are stacked apart")
        self.slider.setToolTip("Stack the lines: drag to move them apart")
        self.slider.valueChanged.connect(self._set_offset)
        self.signals_panel.add_to_header(self.slider)
        self.signals_panel.add_switch("class means|One mean per class", self._set_means)
        self.range_switch = self.signals_panel.add_switch(
            "select|Drag over the picture to select the channels there", self._set_ranging
        )
        self.lines_switch = self.signals_panel.add_switch(IMAGE, self._set_image)
        self.legend = LegendRow()
        self.class_clicks = ClassClicks(self.legend, self.desk)
        self.signals_panel.add_below(self.legend)

    @computed_once
    def image_view(self) -> GridView:
        """Every sample as a row of a picture."""
        view = GridView()
        view.channel.connect(lambda channel: self.desk.selection.change(channel=channel))
        view.clicked_at.connect(self._on_row)
        return view

    @computed_once
    def image_panel(self) -> ChartPanel:
        """The panel of that picture, in the place of the lines."""
        panel = ChartPanel(self.image_view, DEFINITIONS["signals"])
        self.image_switch = panel.add_switch(IMAGE, lambda on: self._set_image(on))
        self._signals.addWidget(panel)
        return panel

    def _set_image(self, on: bool) -> None:
        """The picture of all samples in place of the lines, or back."""
        self.as_image = on
        self._signals.setCurrentWidget(self.image_panel if on else self.signals_panel)
        with QSignalBlocker(self.image_switch), QSignalBlocker(self.lines_switch):
            self.image_switch.setChecked(on)
            self.lines_switch.setChecked(on)
        self.refresh()

    def _show_image(self) -> None:
        table = self.desk.study.state.table
        picture = sample_picture(None)
        if table is not None:
            inputs = (table.values, table.axis, tuple(table.left_out))
            made = self._picture.of(table, inputs, table.values.size)
            picture = made or nothing("Signals", "The picture of all samples is being made …")
        self.image_panel.describe(picture)
        self.image_view.show_chart(picture, np.empty(0, dtype=np.intp))
        self.image_view.set_cursor(self.desk.selection.look.channel)

    def _on_row(self, column: int, row: int) -> None:
        """The samples of a row of the picture are picked."""
        table = self.desk.study.state.table
        if table is not None:
            tall = samples_a_row(len(table.ids))
            self.desk.selection.pick(range(row * tall, min((row + 1) * tall, len(table.ids))))

    def _make_roster(self) -> None:
        self.roster = Roster(self.desk)
        self.filter = QLineEdit()
        self.filter.setPlaceholderText("Filter: type any words")
        self.filter.setAccessibleName("Filter of the roster")
        self.filter.setToolTip("Keep the samples that have every word in some column")
        self.filter.setFixedWidth(170)
        self.filter.textChanged.connect(self.roster.source.look_for)
        self.filter.textChanged.connect(lambda: self.roster.show_pick())
        self.average = QPushButton("Average replicates")
        self.average.setToolTip(
            "One sample for each replicate id: the mean of its samples. Undo brings them back"
        )
        self.average.clicked.connect(lambda: self.desk.do(AverageReplicates()))
        self.roster_panel = paper("Samples", self.roster, (), (self.filter, self.average))
        self.roster.setToolTip(
            "Click a header to sort. Double-click a class or a property to edit; Ctrl+D fills the selected "
            "rows with the topmost value, Ctrl+V pastes a column from a spreadsheet."
        )

    def views(self) -> tuple[StripView | PlaneView | GridView, ...]:
        """Everything that draws a chart here and can be seen."""
        every = (self.image_view if self.as_image else self.view, *self.side.views)
        return tuple(view for view in every if view.isVisible())

    def _show_finding(self) -> None:
        """What was brought in, in a sentence; of much data once it has been looked over."""
        state = self.desk.study.state
        table = state.table
        if table is None:
            return
        size = LOOKS * table.values.size
        found = self._looked_over.of(table, (table, state.colour_by), size)
        if found is not None:
            self.finding.show_pieces(finding(table, state.colour_by, found))

    def refresh(self) -> None:
        """Show the study as it is."""
        self._show_finding()
        state = self.desk.study.state
        chart = signals(state, self.desk.moment.found, 0, self.means, self.offset)
        self.signals_panel.describe(chart)
        self.view.show_chart(chart, strength_of(self.desk, chart, state))
        self.view.settle()
        if self.as_image:
            self._show_image()
        else:
            self._picture.forget()
        self.side.refresh()
        colouring = colouring_of(state)
        self.chooser.show_columns(colouring.column, colour_columns(state.table))
        self.legend.show_colouring(colouring, self.desk.selection.look.focus)
        self.average.setVisible(state.table is not None and state.table.replicates is not None)
        self.side.count_selected()

    def _on_selection(self, changed: frozenset[str]) -> None:
        if not self.isVisible():
            self.redraw()
            return
        look = self.desk.selection.look
        if changed & {"picked", "focus", "alone"} and self.view.chart is not None:
            self.view.emphasise(strength_of(self.desk, self.view.chart, self.desk.study.state))
        if changed & {"picked", "focus", "alone"}:
            self.side.emphasise()
        if changed & {"focus", "alone"}:
            self.legend.show_colouring(colouring_of(self.desk.study.state), look.focus)
        if changed & {"channel", "hovered"}:
            self.view.set_cursor(look.channel)
            if self.as_image:
                self.image_view.set_cursor(look.channel)
            self.view.hover_line(look.hovered)
            self._show_readout()

    def _show_readout(self) -> None:
        look, table = self.desk.selection.look, self.desk.study.state.table
        words = []
        if table is not None and look.channel is not None:
            words.append(table.axis.name(int(np.abs(table.axis.places() - look.channel).argmin())))
        if table is not None and look.hovered is not None:
            words.append(table.ids[look.hovered])
        self.signals_panel.readout.setText("  ".join(words))

    def _set_offset(self, value: int) -> None:
        self.offset = value / 100.0 * 0.25
        self.refresh()

    def _set_means(self, on: bool) -> None:
        self.means = on
        self.refresh()

    def _set_ranging(self, on: bool) -> None:
        self.view.set_ranging(on)
