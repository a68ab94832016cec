"""What lies under the signals: the table of variables, two of them against each other, all correlations."""

from __future__ import annotations

import numpy as np
from PySide6.QtWidgets import QFrame, QLineEdit, QPushButton, QStackedWidget, QWidget

from scutcher.charts.description import nothing
from scutcher.charts.variables import correlation_picture, scatter
from scutcher.core.computed_once import computed_once
from scutcher.core.data.table import Table
from scutcher.core.words import count_of, counted
from scutcher.desk.context import Desk
from scutcher.desk.kept_behind import KeptBehind
from scutcher.desk.pages.samples.variables import Variables
from scutcher.desk.pages.showing import strength_of
from scutcher.desk.painting.grid import GridView
from scutcher.desk.painting.plane import PlaneView
from scutcher.desk.widgets.gestures import attend_plane
from scutcher.desk.widgets.note import Note
from scutcher.desk.widgets.panel import ChartPanel, paper
from scutcher.desk.widgets.popover import Ask
from scutcher.study.document.commands.samples import BringBackVariables, LeaveOutVariables

TABLE, SCATTER, CORRELATIONS = range(3)
"""What is looked at."""


class VariablesSide(QStackedWidget):
    """One of the three at a time."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self.desk = desk
        self.pair = (0, 1)
        self.side = TABLE
        self._picture = KeptBehind(desk, "correlations", correlation_picture, self.refresh)
        self.variables = Variables(desk)
        self.addWidget(self.table)

    @computed_once
    def scatter_view(self) -> PlaneView:
        """Two variables against each other."""
        view = PlaneView()
        attend_plane(view, self.desk.selection)
        return view

    @computed_once
    def correlation_view(self) -> GridView:
        """The correlations of all variables as a picture."""
        view = GridView()
        view.clicked_at.connect(self._on_correlation)
        return view

    @computed_once
    def scatter_panel(self) -> ChartPanel:
        """The panel of the two."""
        return self._beside_table(self.scatter_view, "Two variables as brought in, r their correlation")

    @computed_once
    def correlation_panel(self) -> ChartPanel:
        """The panel of that picture."""
        words = "Pearson's correlation of every two variables; click one to see the two"
        return self._beside_table(self.correlation_view, words)

    def _beside_table(self, view: QWidget, definition: str) -> ChartPanel:
        panel = ChartPanel(view, definition)
        back = QPushButton("Table")
        back.setToolTip("Back to the table of variables")
        back.clicked.connect(lambda: self.show_side(TABLE))
        panel.add_to_header(back)
        self.addWidget(panel)
        return panel

    @computed_once
    def table(self) -> QFrame:
        """The panel of the variables."""
        self.leave_out, self.bring_back = QPushButton("Leave out…"), QPushButton("Bring back")
        self.leave_out.setToolTip("Take the selected variables out of every model, with a reason")
        self.bring_back.setToolTip("Let the selected variables into the models again")
        self.leave_out.clicked.connect(self.ask_leave_out)
        self.bring_back.clicked.connect(
            lambda: self.desk.do(BringBackVariables(tuple(self.variables.selected_columns())))
        )
        self.two, self.all = QPushButton("Two…"), QPushButton("Correlations")
        self.two.setToolTip("The first and the last selected variable against each other")
        self.all.setToolTip("The correlations of all variables as a picture")
        self.two.clicked.connect(lambda: self.show_side(SCATTER))
        self.all.clicked.connect(lambda: self.show_side(CORRELATIONS))
        self.counted = Note()
        self.variables.selectionModel().selectionChanged.connect(lambda: self.count_selected())
        tools = (self.two, self.all, self.leave_out, self.bring_back)
        return paper("Variables", self.variables, (self.counted,), tools)

    @property
    def views(self) -> tuple[PlaneView | GridView, ...]:
        """What draws a chart here and can be seen."""
        if self.side == TABLE:
            return ()
        return (self.scatter_view if self.side == SCATTER else self.correlation_view,)

    def show_side(self, side: int) -> None:
        """The table of variables, two of them against each other, or all correlations."""
        if side == SCATTER:
            chosen = self.variables.selected_columns()
            self.pair = (chosen[0], chosen[-1]) if len(chosen) > 1 else self.pair
        self._go_to(side)

    def _go_to(self, side: int) -> None:
        self.side = side
        if side == TABLE:
            self.setCurrentWidget(self.table)
        else:
            self.setCurrentWidget(self.scatter_panel if side == SCATTER else self.correlation_panel)
        self.refresh()

    def refresh(self) -> None:
        """Draw what is seen as the study is."""
        state = self.desk.study.state
        if self.side == SCATTER:
            chart = scatter(state, *self.pair)
            self.scatter_panel.describe(chart)
            self.scatter_view.show_chart(chart, strength_of(self.desk, chart, state))
        if self.side == CORRELATIONS:
            self._show_correlations(state.table)
        else:
            self._picture.forget()

    def _show_correlations(self, table: Table | None) -> None:
        chart = correlation_picture(None)
        if table is not None:
            inputs = (table.values, table.axis, tuple(table.left_out), table.used_rows())
            made = self._picture.of(table, inputs, table.values.size)
            chart = made or nothing("Correlations", "They are being computed …")
        self.correlation_panel.describe(chart)
        self.correlation_view.show_chart(chart, np.empty(0, dtype=np.intp))

    def emphasise(self) -> None:
        """The pick or the class in focus is another."""
        if self.side == SCATTER:
            self.refresh()

    def choose_range(self, low: float, high: float) -> None:
        """Select the variables between two places of the axis."""
        table = self.desk.study.state.table
        if table is not None:
            places = table.axis.places()
            self.variables.choose(np.flatnonzero((places >= low) & (places <= high)).tolist())
            self.count_selected()

    def count_selected(self) -> None:
        """Say how many there are, and let be done what can be done with those that are selected."""
        table = self.desk.study.state.table
        chosen = self.variables.selected_columns()
        words = "" if table is None else f"{counted(table.axis)} · {counted(table.left_out)} left out"
        self.counted.setText(f"{words} · {counted(chosen)} selected" if chosen else words)
        self.two.setEnabled(len(chosen) > 1)
        left_out = set(chosen) & set(table.left_out) if table is not None else set()
        self.bring_back.setEnabled(bool(left_out))
        self.leave_out.setEnabled(bool(set(chosen) - left_out))

    def ask_leave_out(self) -> Ask | None:
        """Ask why, then leave the selected variables out."""
        columns = tuple(self.variables.selected_columns())
        if not columns:
            return None
        reason = QLineEdit()
        reason.setPlaceholderText("e.g. detector end, water band")

        def answered() -> bool:
            return self.desk.do(LeaveOutVariables(columns, reason.text()))

        title = f"Leave out {count_of(columns, 'variable')}"
        ask = Ask(self.window(), title, [("why", reason)], "Leave out", answered)
        ask.open_at(self.leave_out, above=True)
        return ask

    def _on_correlation(self, across: int, up: int) -> None:
        """Two variables were clicked on the picture of correlations: see them."""
        table, shown = self.desk.study.state.table, self.correlation_view.chart
        if table is None or shown is None or shown.grid is None:
            return
        places = table.axis.places()
        first, second = (int(np.abs(places - shown.grid.x[place]).argmin()) for place in (across, up))
        self.pair = (first, second)
        self.variables.choose(sorted({first, second}))
        self._go_to(SCATTER)
