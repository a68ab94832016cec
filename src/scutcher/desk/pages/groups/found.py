"""Groups without labels: a tree or k-means on the scores, their number, and what the labels say of them."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import Any

import numpy as np
from PySide6.QtWidgets import QLineEdit, QPushButton, QWidget

from scutcher.charts.description import Chart, nothing
from scutcher.charts.emphasis import colouring_of
from scutcher.charts.found_groups import (
    cross_rows,
    found_finding,
    found_plane,
    group_means,
    group_name,
    number_run,
    strangers,
)
from scutcher.core.data.columns import ClassColumn
from scutcher.core.errors import InputError
from scutcher.core.groups.class_scores import clearest_pair
from scutcher.core.groups.clusters import Clusters, HowMany, Way
from scutcher.core.progress import Watch
from scutcher.desk.context import Desk, follow, follow_moment
from scutcher.desk.deferred import Soon
from scutcher.desk.kept_behind import Behind
from scutcher.desk.pages.groups.tree_view import TreeView
from scutcher.desk.pages.showing import View, emphasise, show
from scutcher.desk.painting.handle_plot import HandlePlot
from scutcher.desk.painting.plane import PlaneView
from scutcher.desk.painting.strip import StripView
from scutcher.desk.widgets.choice_menu import ChoiceMenu
from scutcher.desk.widgets.columns import two_columns
from scutcher.desk.widgets.figures_table import FiguresTable
from scutcher.desk.widgets.finding import Say
from scutcher.desk.widgets.gestures import attend_plane, attend_strip
from scutcher.desk.widgets.legend import LegendRow
from scutcher.desk.widgets.note import Note
from scutcher.desk.widgets.panel import ChartPanel, paper
from scutcher.desk.widgets.popover import Ask
from scutcher.study.document.commands.classes import ClassOfGroups
from scutcher.study.evaluation.found_groups import Ungrouped, judge_number, ungrouped

SLOT = "groups found"
AT_ONCE = 250
"""Points up to which a tree of them takes less than a frame."""

WAYS: dict[Way, str] = {"ward": "Ward's tree", "k-means": "k-means"}
KINDS = {
    "stability": "found again|Adjusted Rand of what halves find; dashed: agreement with the labels",
    "silhouette": "silhouette|How much nearer samples are to their own group than to the next",
    "gap": "gap|Gap statistic: how much tighter the groups are than those of even data",
}


class FoundView(QWidget):
    """Its own choices are the way, the scaling and the number of groups."""

    def __init__(self, desk: Desk, say: Say) -> None:
        super().__init__()
        self.desk, self._say = desk, say
        self.way: Way = "ward"
        self.scaled, self.count, self.kind = False, 0, "stability"
        self._suggested = 2
        self.made: Ungrouped | None = None
        self.clusters: Clusters | None = None
        self.judged: HowMany | None = None
        self._inputs: tuple[Any, ...] = ()
        self._found: Behind[Clusters] = Behind(desk, "groups cut", self.refresh)
        self._drawn: Ungrouped | None = None

    def parts(self) -> tuple[Callable[[], None], ...]:
        """What makes its panels, one after the other."""
        return self._make_tree, self._make_cross, self._make_plane, self._make_number, self._arrange

    def _arrange(self) -> None:
        two_columns(
            self,
            [(self.tree_panel, 290), (self.means_panel, 180), (self.cross_panel, 170)],
            [(self.plane_panel, 370), (self.number_panel, 250)],
        )
        self.redraw = Soon(self.refresh, self)
        follow_moment(self, self.desk, self.redraw)
        follow(self, self.desk.selection, self._on_selection)
        self.redraw()

    def _make_tree(self) -> None:
        self.tree = TreeView()
        self.tree.cut_moved.connect(self._set_count)
        self.tree.leaf_clicked.connect(self._on_leaf)
        self.tree_note = Note()
        self.way_menu = ChoiceMenu("Ward's tree ▾", "How groups are found", self._fill_ways)
        self.tree_panel = paper("Tree", self.tree, (self.tree_note,), (self.way_menu,))

        self.means = StripView()
        attend_strip(self.means, self.desk.selection)
        self.means_panel = ChartPanel(self.means, "Mean of each group less the mean of all, treated")

    def _make_cross(self) -> None:
        self.cross = FiguresTable()
        self.cross.itemSelectionChanged.connect(self._on_group)
        self.cross_note = Note()
        self.as_column = QPushButton("As a class column…")
        self.as_column.setToolTip(
            "Make a class column of the groups, to colour and to tell them apart everywhere"
        )
        self.as_column.clicked.connect(self.ask_column)
        self.cross_panel = paper("Found against labelled", self.cross, (self.cross_note,), (self.as_column,))

    def _make_plane(self) -> None:
        self.plane = PlaneView()
        attend_plane(self.plane, self.desk.selection)
        self.plane_panel = ChartPanel(
            self.plane, "Samples in their class colours; outlines: the groups that were found"
        )
        self.legend = LegendRow()
        self.plane_panel.add_below(self.legend)

    def _make_number(self) -> None:
        self.number = HandlePlot()
        self.number.setMinimumHeight(90)
        self.number.moved.connect(self._set_count)
        self.number_panel = ChartPanel(
            self.number,
            "What speaks for each number of groups; one is an answer too. Tibshirani 2001; Rousseeuw 1987; "
            "Hubert & Arabie 1985. Drag the line.",
        )
        self.kinds = self.number_panel.add_choices(KINDS, self._set_kind)

    @property
    def views(self) -> tuple[View, ...]:
        """Everything that draws a chart here."""
        return (self.means, self.plane)

    # From the moment to the views

    def refresh(self) -> None:
        """Find the groups of now, and show them."""
        found = self.desk.moment.found
        if found is None:
            self._show_nothing("It appears with the first model.")
            return
        inputs = (found, self.way, self.scaled)
        if inputs != self._inputs:
            self._inputs, self.judged = inputs, None
            try:
                self.made = ungrouped(found, self.way, self.scaled)
            except InputError as error:
                self.made = None
                self._show_nothing(str(error))
                return
            self._ask(self.made, inputs)
        if self.made is None:
            return
        if self.judged is not None:
            self._suggested = self.judged.by_stability
        count = self.count or self._suggested  # as before while it is judged: nothing jumps
        clusters = self._clusters_of(self.made, min(max(count, 1), len(self.made.points)))
        if clusters is not None:
            self.clusters, self._drawn = clusters, self.made
            self._show(self.made, clusters)
        elif self._drawn is not self.made:
            self.clusters = None
            self._show_nothing("Groups are being looked for …")

    def _clusters_of(self, made: Ungrouped, count: int) -> Clusters | None:
        """The groups, and the tree beside them; of many points they come later."""

        def work(watch: Watch | None) -> Clusters:
            _ = made.tree
            return made.clusters(count)

        return self._found.of((made, count), work, len(made.points) <= AT_ONCE)

    def _ask(self, made: Ungrouped, inputs: tuple[Any, ...]) -> None:
        """Judge the number behind; the newest wins."""

        def work(watch: Watch) -> HowMany:
            return judge_number(made, watch)

        def done(answer: Any) -> None:
            if inputs is not self._inputs or isinstance(answer, InputError):
                return
            if isinstance(answer, Exception):
                raise answer
            self.judged = answer
            self.refresh()

        self.desk.live.ask(SLOT, None, work, done)

    def _column(self) -> ClassColumn | None:
        """The classes that groups are held against: of the colouring, or the first."""
        if self.made is None:
            return None
        classes = self.made.found.treated.classes
        named = [column for column in classes if column.name == self.desk.moment.state.colour_by]
        return next(iter(named or classes), None)

    def _show(self, made: Ungrouped, clusters: Clusters) -> None:
        state, column = self.desk.moment.state, self._column()
        colouring = colouring_of(state)
        kind = (
            "lots, each the mean of its replicates" if made.found.part.replicates is not None else "samples"
        )
        self.tree_note.setText(
            f"{len(made.points)} {kind} · {made.found.model.k} components · joining distance"
        )
        self.way_menu.setText(f"{WAYS[self.way]} ▾")
        codes = made.classes_of_points(column) if column is not None else np.full(len(made.points), -1)
        in_order = clusters.labels if self.way == "ward" else made.tree.cut(len(clusters.centres))
        self.tree.show_tree(made.tree, codes, in_order, made.names)
        labels = made.of_samples(clusters)
        pair = clearest_pair(made.found.model.scores, labels)
        show(self.desk, self.plane_panel, self.plane, found_plane(made, clusters, pair, colouring), state)
        self.legend.show_colouring(colouring, self.desk.selection.look.focus)
        show(self.desk, self.means_panel, self.means, group_means(made, clusters, column), state)
        self._show_cross(made, clusters, column)
        self._show_number(made, clusters, column)
        self._say(found_finding(made, clusters, self.judged, column))

    def _show_cross(self, made: Ungrouped, clusters: Clusters, column: ClassColumn | None) -> None:
        none = ClassColumn("", ("",) * len(made.found.treated.ids))
        header, rows = cross_rows(made, clusters, column or none)
        self.cross.name_columns(header, range(1, len(header)))
        self.cross.show_rows(rows)  # type: ignore[arg-type]
        words = ""
        if column is not None:
            odd = [made.names[point] for point in strangers(made, clusters, column)]
            words = f"by {column.name}" + (f" · alone among others: {', '.join(odd[:4])}" if odd else "")
        self.cross_note.setText(words)

    def _show_number(self, made: Ungrouped, clusters: Clusters, column: ClassColumn | None) -> None:
        judged = self.judged
        run = None if judged is None else number_run(made, judged, len(clusters.centres), column, self.kind)
        self.number.show_run(run)
        with_labels = self.kind == "stability" and column is not None
        note = f"thin: agreement with {column.name}" if with_labels and column is not None else ""
        title = {"stability": "agreement", "silhouette": "silhouette", "gap": "gap"}[self.kind]
        self.number_panel.describe(Chart("How many groups?", note, "groups", title, empty="" if run else "…"))
        self.number_panel.empty.setVisible(run is None)

    def _show_nothing(self, words: str) -> None:
        self._say([(words, ())])
        self.tree.show_tree(None, np.empty(0, np.intp), np.empty(0, np.intp), ())
        self.cross.show_rows([])
        self.number.show_run(None)
        state = self.desk.moment.state
        show(self.desk, self.plane_panel, self.plane, nothing("Scores", words), state)
        show(self.desk, self.means_panel, self.means, nothing("Where they differ", ""), state)

    def _on_selection(self, changed: frozenset[str]) -> None:
        if not self.isVisible():
            self.redraw()
            return
        if changed & {"picked", "focus", "alone"}:
            emphasise(self.desk, self.views, self.desk.moment.state)
        if "channel" in changed:
            self.means.set_cursor(self.desk.selection.look.channel)
        if "hovered" in changed:
            self.plane.hover_mark(self.desk.selection.look.hovered)

    # From the person

    def _fill_ways(self, menu: ChoiceMenu) -> None:
        for way, words in WAYS.items():
            menu.add(words, self.way == way, partial(self._take, way, self.scaled))
        menu.line()
        words = "scores to unit variance"
        menu.add(words, self.scaled, partial(self._take, self.way, not self.scaled))

    def _take(self, way: Way, scaled: bool) -> None:
        self.way, self.scaled = way, scaled
        self.refresh()

    def _set_count(self, count: int) -> None:
        self.count = count
        self.refresh()

    def _set_kind(self, kind: str) -> None:
        self.kind = kind
        if self.made is not None and self.clusters is not None:
            self._show_number(self.made, self.clusters, self._column())

    def _pick_points(self, chosen: np.ndarray) -> None:
        made = self.made
        if made is not None:
            self.desk.selection.pick(made.found.usable.rows[np.isin(made.codes, chosen)].tolist())

    def _on_leaf(self, leaf: int) -> None:
        self._pick_points(np.array([leaf]))

    def _on_group(self) -> None:
        groups = sorted({item.row() for item in self.cross.selectedItems()})
        if groups and self.clusters is not None:
            self._pick_points(np.flatnonzero(np.isin(self.clusters.labels, groups)))

    def ask_column(self) -> Ask | None:
        """Ask for a name, then make a class column of the groups."""
        if self.made is None or self.clusters is None:
            return None
        made, labels = self.made, self.made.of_samples(self.clusters)
        name = QLineEdit("group")

        def answered() -> bool:
            rows = tuple(made.found.usable.rows.tolist())
            return self.desk.do(ClassOfGroups(name.text(), rows, tuple(map(group_name, labels.tolist()))))

        ask = Ask(self.window(), "A class column of the groups", [("name", name)], "Make it", answered)
        ask.open_at(self.as_column, above=True)
        return ask
