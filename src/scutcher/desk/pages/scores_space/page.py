"""Looks at the scores from outside: all pairs at once, three components turned by hand, pictures."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QFrame,
    QHBoxLayout,
    QPushButton,
    QSlider,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from scutcher.charts.emphasis import FRONT, PLAIN, colouring_of, emphasis
from scutcher.charts.loading_plane import loading_plane, loading_rows
from scutcher.charts.rebuilds import rebuild_grid
from scutcher.charts.scores import usable_pair
from scutcher.charts.space import grid_axes, landscapes, pairs
from scutcher.charts.whole_numbers import all_scores
from scutcher.core.arrays import Floats, Integers
from scutcher.desk.context import Desk, follow
from scutcher.desk.deferred import Soon
from scutcher.desk.pages.overlay import Over
from scutcher.desk.painting.pictures import LandscapesView
from scutcher.desk.painting.plane import PlaneView
from scutcher.desk.painting.rebuild_view import RebuildView
from scutcher.desk.painting.scores_space import PairsView, TurnView
from scutcher.desk.widgets.combo import Combo
from scutcher.desk.widgets.figures_table import FiguresTable
from scutcher.desk.widgets.gestures import how_of, pick
from scutcher.desk.widgets.legend import LegendRow
from scutcher.desk.widgets.note import Note
from scutcher.desk.words import Words
from scutcher.study.evaluation.evaluation import Evaluation

KINDS = {
    "pairs": "all pairs",
    "space": "in space",
    "pictures": "as pictures",
    "rebuilds": "rebuilt by more and more components",
    "loadings": "loadings as points",
    "circle": "loadings as correlations",
    "table": "loadings as a table",
}
TITLES = dict.fromkeys(("loadings", "circle", "table"), "Loadings") | {"rebuilds": "Samples"}


class SpacePage(Over):
    """One of these looks, over the whole page; Esc or Close goes back."""

    def __init__(self, desk: Desk, kind: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.desk, self.kind = desk, kind
        self.pairs_view, self.turn_view, self.pictures_view = PairsView(), TurnView(), LandscapesView()
        self.stack = QStackedWidget()
        self.loading_view = PlaneView(mark_size=5.0)
        self.loading_view.picked.connect(self._on_variables)
        self.table = FiguresTable()
        self.table.setSortingEnabled(True)
        self.table.itemSelectionChanged.connect(self._on_row)
        self._tabled: object = None
        self.rebuild_view = RebuildView()
        self.shown: dict[str, QWidget] = {
            "pairs": self.pairs_view,
            "space": self.turn_view,
            "pictures": self.pictures_view,
            "rebuilds": self.rebuild_view,
            "loadings": self.loading_view,
            "circle": self.loading_view,
            "table": self.table,
        }
        for view in dict.fromkeys(self.shown.values()):
            self.stack.addWidget(view)
        self.weakest = QSlider(Qt.Orientation.Horizontal)
        self.weakest.setRange(0, 95)
        self.weakest.setFixedWidth(140)
        self.weakest.setToolTip("Leave weak variables away: those shorter than this share of the longest")
        self.weakest.valueChanged.connect(lambda value: self._redraw_soon())
        for view in (self.pairs_view, self.turn_view):
            view.picked.connect(lambda rows, modifiers: pick(desk.selection, rows, modifiers))
        self.what = Combo()
        self.what.addItems(list(KINDS.values()))
        self.what.setCurrentIndex(list(KINDS).index(kind))
        self.what.activated.connect(lambda place: self.choose(list(KINDS)[place]))
        self.third = Combo()
        self.third.setToolTip("The component that stands upright in space")
        self.third.activated.connect(lambda place: self._redraw_soon())
        self.title, close = Words("Scores"), QPushButton("Close")
        self.title.setObjectName("strong")
        close.clicked.connect(self.done)
        header = QHBoxLayout()
        self.words = Note()
        self.words.setText(
            "deviations from the mean: measured grey, rebuilt blue; pick other samples to see them"
        )
        self.words.setObjectName("quiet")
        for widget in (self.title, self.what, self.third, self.weakest, self.words):
            header.addWidget(widget)
        header.addStretch(1)
        header.addWidget(close)
        self.legend = LegendRow()
        frame = QFrame()
        frame.setObjectName("panel")
        inside = QVBoxLayout(frame)
        inside.addWidget(self.stack, 1)
        inside.addWidget(self.legend)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(8, 8, 8, 7)
        layout.addLayout(header)
        layout.addWidget(frame, 1)
        self.redraw = Soon(self.refresh, self)
        for source in (desk.live, desk.study, desk.selection):
            follow(
                self,
                source,
                lambda changed: self.redraw() if changed - {"hovered", "channel", "checking"} else None,
            )
        self.refresh()

    def choose(self, kind: str) -> None:
        """Another of these looks."""
        self.kind = kind
        self.refresh()

    def refresh(self) -> None:
        """Draw the model of now."""
        found, state, look = self.desk.moment.found, self.desk.moment.state, self.desk.selection.look
        self.stack.setCurrentWidget(self.shown[self.kind])
        self.title.setText(TITLES.get(self.kind, "Scores"))
        self.words.setVisible(self.kind == "rebuilds")
        self.third.setVisible(self.kind == "space")
        self.weakest.setVisible(self.kind in ("loadings", "circle"))
        if found is None:
            return
        if self.kind in ("loadings", "circle", "table"):
            self.legend.setVisible(False)
            self._show_loadings(found)
            return
        if self.kind == "rebuilds":
            self.legend.setVisible(False)
            self.rebuild_view.show_grid(rebuild_grid(found, look.picked))
            return
        colouring = colouring_of(state)
        rows = found.usable.rows
        strength = emphasis(rows, colouring.codes[rows], look, colouring.levels)
        self.legend.show_colouring(colouring, look.focus)
        self.legend.setVisible(self.kind != "pictures")
        if self.kind == "pairs":
            self.pairs_view.whole = all_scores(found)
            self.pairs_view.show_pairs(pairs(state, found), strength)
        elif self.kind == "space":
            self.turn_view.whole = all_scores(found)
            self._show_space(found.model.scores, rows, colouring.codes[rows], strength)
        else:
            grid = grid_axes(found.treated.axis)
            self.pictures_view.show_pictures(
                [] if grid is None else landscapes(found, grid, look.picked), grid
            )

    def _show_loadings(self, found: Evaluation) -> None:
        if self.kind == "table":
            self._fill_table(found)
            return
        pair = usable_pair(found, self.desk.selection.look.pair)
        chart = loading_plane(found, pair, self.kind == "circle", self.weakest.value() / 100.0)
        assert chart.marks is not None
        places = found.treated.axis.places()[chart.marks.keys]
        chosen = np.isin(places, self.desk.selection.look.channels)
        self.loading_view.show_chart(chart, np.where(chosen, FRONT, PLAIN).astype(np.intp))

    def _redraw_soon(self) -> None:
        self.redraw()

    def _fill_table(self, found: Evaluation) -> None:
        if self._tabled is found.model.decomposition:
            return
        self._tabled = found.model.decomposition
        header, rows = loading_rows(found)
        self.table.setSortingEnabled(False)
        self.table.name_columns(header, range(1, len(header)))
        self.table.show_rows(rows)
        self.table.setSortingEnabled(True)

    def _on_row(self) -> None:
        """A row moves the channel cursor everywhere."""
        found, chosen = self.desk.moment.found, self.table.selectedItems()
        if found is not None and chosen:
            name = self.table.cell(chosen[0].row(), 0).text()
            axis = found.treated.axis
            column = next((c for c in range(len(axis)) if axis.name(c) == name), None)
            if column is not None:
                self.desk.selection.change(channel=float(axis.places()[column]))

    def _on_variables(self, columns: list[int], modifiers: Qt.KeyboardModifier) -> None:
        """Variables that are clicked or enclosed are picked, on the strips too."""
        found = self.desk.moment.found
        if found is not None:
            places = found.treated.axis.places()[columns].tolist()
            self.desk.selection.pick_channels(places, how_of(modifiers))

    def _show_space(self, scores: Floats, rows: Integers, codes: Integers, strength: Integers) -> None:
        k = scores.shape[1]
        if self.third.count() != k:
            self.third.clear()
            self.third.addItems([f"component {a + 1} up" for a in range(k)])
            self.third.setCurrentIndex(min(2, k - 1))
        first, second = (min(a, k - 1) for a in self.desk.selection.look.pair)
        chosen = [first, second, self.third.currentIndex()]
        points = scores[:, chosen].copy()
        for place in range(1, 3):
            if chosen[place] in chosen[:place]:
                points[:, place] = 0.0  # fewer than three components: flat
        names = tuple(f"component {a + 1}" for a in chosen)
        self.turn_view.show_points(points, rows, codes, strength, (names[0], names[1], names[2]))
