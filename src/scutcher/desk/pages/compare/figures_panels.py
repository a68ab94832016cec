"""What is in figures beside the planes: those of both models, and the samples that moved most."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QSignalBlocker
from PySide6.QtGui import QColor
from PySide6.QtWidgets import QLabel, QToolButton

from scutcher.charts import colours
from scutcher.charts.comparing.figures import figure_rows, is_no_contest, moved_rows, told
from scutcher.desk.widgets.figures_table import FiguresTable
from scutcher.desk.widgets.note import Note
from scutcher.desk.widgets.panel import paper
from scutcher.study.evaluation.comparison import Comparison

FIGURES = ["", "A", "B", "B less A"]
MOVED = ["sample", "moved", "Q / limit", "T² / limit"]
MOST = 12
"""Samples that are picked at once."""

VERDICTS = {"better": "ACCENT", "worse": "ALARM", "same": "MUTED"}
"""Names of colours."""


class Figures:
    """The figures of both models, and which is better."""

    def __init__(self) -> None:
        self.table = FiguresTable(FIGURES, (1, 2, 3))
        self.table.stretch_first()
        self.table.setSelectionMode(FiguresTable.SelectionMode.NoSelection)
        self.waiting = QLabel()
        self.frame = paper("Figures", self.table, (self.waiting,))

    def show_compared(self, compared: Comparison | None) -> None:
        """Put other figures in; none of nothing."""
        rows = [] if compared is None else figure_rows(compared)
        self.table.show_rows([row for _, row in rows])
        for place, (figure, _) in enumerate(rows):
            assert compared is not None
            words = told(figure, compared.same_data)
            for column in range(len(FIGURES)):
                self.table.cell(place, column).setToolTip(words)
            colour = VERDICTS.get("" if is_no_contest(figure, compared.same_data) else figure.verdict)
            if colour is not None:
                self.table.cell(place, 3).setForeground(QColor(getattr(colours, colour)))


class Moved:
    """The samples that moved most; `pick` gets the places in the comparison of those that are chosen."""

    def __init__(self, pick: Callable[[list[int]], object]) -> None:
        self._pick = pick
        self._places: list[int] = []
        self.table = FiguresTable(MOVED, (1, 2, 3))
        self.table.setSelectionMode(FiguresTable.SelectionMode.ExtendedSelection)
        self.table.itemSelectionChanged.connect(self._on_chosen)
        every = QToolButton()
        every.setText("pick all")
        every.setToolTip("Pick the twelve that moved most")
        every.clicked.connect(lambda: self._pick(self._places[:MOST]))
        why = Note("in spreads of A's scores")
        why.setToolTip(
            "How far a sample lies from its place in A, in root mean square distances from the centre"
        )
        self.frame = paper("Moved most", self.table, (why,), (every,))

    def show_compared(self, compared: Comparison | None) -> None:
        """List other samples; none of nothing."""
        listed = [] if compared is None else moved_rows(compared)
        self._places = [place for place, _ in listed]
        with QSignalBlocker(self.table):
            self.table.show_rows([row for _, row in listed])

    def _on_chosen(self) -> None:
        rows = sorted({index.row() for index in self.table.selectionModel().selectedRows()})
        self._pick([self._places[row] for row in rows])
