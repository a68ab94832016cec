"""The Maps page: maps side by side under one lens, the plane of pixels, spectra, readings."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import replace
from functools import partial
from typing import Any

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from scutcher.charts.map_files import outline
from scutcher.charts.map_finding import StrangeObject, finding, strange_objects
from scutcher.charts.maps import PictureMap
from scutcher.charts.pixels import Subject
from scutcher.charts.words import Pieces
from scutcher.core.arrays import Booleans
from scutcher.core.errors import InputError
from scutcher.core.progress import Watch
from scutcher.core.words import shown
from scutcher.desk.context import Desk, follow
from scutcher.desk.deferred import InTurns, Soon
from scutcher.desk.pages.declaration import PageView
from scutcher.desk.pages.maps.beside import Beside
from scutcher.desk.pages.maps.live_pixel import LivePixel
from scutcher.desk.pages.maps.masking import Masking
from scutcher.desk.pages.maps.shapes import MapShapes
from scutcher.desk.pages.maps.wall import MapWall
from scutcher.desk.pages.maps.writing import MapWriter
from scutcher.desk.painting.map_shown import Lens
from scutcher.desk.widgets.choice_menu import ChoiceMenu
from scutcher.desk.widgets.finding import Finding
from scutcher.desk.widgets.gestures import pick
from scutcher.desk.widgets.panel import choice_words, paper
from scutcher.study.document.commands.data import AddDataSet
from scutcher.study.evaluation.evaluation import Evaluation
from scutcher.study.evaluation.pixels import PixelGrid
from scutcher.study.evaluation.whole_image import is_thinned

TOOLS = {
    "box": "box|Drag a rectangle: its pixels are picked. Shift adds, Ctrl toggles, both keep the common",
    "lasso": "lasso|Drag a free line around pixels",
    "polygon": "corners|Click corner after corner; a double click or the first one again closes",
    "brush": "brush|Drag over pixels",
    "flood": "like it|Click a pixel: what is connected to it and has a like value on this map is picked",
}  # fmt: skip
LEAST = 8
"""Pixels of a data set of its own."""

RIGHT = 248
"""Pixels of the column at the right at least: the readings have three columns."""

RANGE = 98
"""Pixels of the histogram with its heading."""


class MapsPage(PageView):
    """Reads the moment; picks are samples as everywhere; the maps share one lens and one cursor."""

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.desk = desk
        self.objects: list[StrangeObject] = []
        self._told: object = None

    def build(self) -> Iterator[None]:
        """The maps, and what stands beside and below them."""
        desk = self.desk
        self.finding = Finding(desk)
        self.beside = Beside(desk)
        yield
        self.wall = MapWall(desk, self._show_strips)
        self.live_pixel = LivePixel(desk, self.wall, self.beside)
        for place, panel in enumerate(self.wall.panels):
            panel.setParent(self)  # those that are not shown go with the page too
            panel.setVisible(place < self.wall.count)
            panel.view.hovered.connect(self._on_hover)
            panel.view.pointed.connect(self.live_pixel.point)
            panel.view.picked.connect(partial(self._on_pick, place))
        yield
        self.masking = Masking(desk, self.wall)
        self.writer = MapWriter(desk, self.wall.shown_maps, self.picked_inside)
        self._arrange()
        yield
        self.redraw, self._turns = Soon(self.refresh, self), InTurns(self)
        follow(self, desk.live, self._on_live)
        follow(self, desk.selection, self._on_selection)

    def _arrange(self) -> None:
        header = QHBoxLayout()
        header.setContentsMargins(4, 0, 0, 0)
        header.addWidget(self.finding, 1)
        self.tools = choice_words(self, TOOLS, self._set_tool)
        words = "How many maps, smooth or honest pixels, the range"
        self.view_menu = ChoiceMenu("maps ▾", words, self._fill_view)
        self.write_menu = ChoiceMenu("write ▾", "Maps and regions as files", self.writer.fill)
        self.shapes = MapShapes(self.desk)
        words = "Shapes whose amounts are mapped: of the picked pixels, or found"
        self.shape_menu = ChoiceMenu("shapes ▾", words, self.shapes.fill)
        for widget in (*self.tools.values(), self.view_menu, self.shape_menu, self.write_menu):
            header.addWidget(widget)
        top, bottom, strips, right = QHBoxLayout(), QHBoxLayout(), QVBoxLayout(), QVBoxLayout()
        for layout in (top, bottom, strips, right):
            layout.setSpacing(7)
        top.addLayout(self.wall.layout, 79)
        top.addWidget(self.beside.pixels.panel, 26)
        strips.addWidget(self.beside.spectra_panel, 100)
        strips.addWidget(self.beside.loading_panel, 95)
        range_paper = paper("Range of the colours", self.wall.range)
        range_paper.setFixedHeight(RANGE)
        readings_paper = paper("Readings", self.beside.table)
        for panel in (self.beside.pixels.panel, readings_paper):
            panel.setMinimumWidth(RIGHT)
        right.addWidget(readings_paper, 1)
        right.addWidget(range_paper)
        bottom.addLayout(strips, 79)
        bottom.addLayout(right, 26)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(8, 5, 8, 7)
        whole.setSpacing(5)
        whole.addLayout(header)
        whole.addLayout(top, 100)
        whole.addLayout(bottom, 92)

    def views(self) -> Sequence[Any]:
        """Everything that draws a chart here."""
        return (*(panel.view for panel in self.wall.shown), *self.beside.views)

    def _fill_view(self, menu: ChoiceMenu) -> None:
        wall = self.wall
        for count in (1, 2, 3, 4):
            words = f"{count} map{'s' * (count > 1)}"
            menu.add(words, wall.count == count, partial(wall.show_count, count))
        menu.line()
        smooth = wall.panels[0].view.smooth
        menu.add("smooth between pixels", smooth, partial(wall.set_smooth, not smooth))
        lens = wall.lens
        menu.add("whole picture", False, lens.whole)
        menu.add("turn to the right", lens.turns > 0, partial(lens.turn, lens.turns + 1, lens.mirrored))
        menu.add("exchange left and right", lens.mirrored, partial(self._mirror, lens))
        if is_thinned(self.desk.moment.state):
            on = wall.behind.whole is not None
            menu.add("all pixels of the file", on, partial(wall.behind.go_over, not on))
        menu.line()
        smooth = self.wall.by_smoothness
        menu.add("order components by smoothness", smooth, partial(self.wall.order_by_smoothness, not smooth))
        menu.add("robust range of the colours", False, wall.forget_ranges)
        menu.add("mask pixels outside the range", False, self.masking.outside)
        menu.add("mask the picked pixels", False, self.masking.picked)

    @staticmethod
    def _mirror(lens: Lens) -> None:
        """Left and right as they lie on screen now."""
        lens.turn(-lens.turns if lens.turns % 2 else lens.turns, not lens.mirrored)

    @property
    def grid(self) -> PixelGrid | None:
        """Where the samples lie."""
        return self.wall.grid

    def map_at(self, place: int) -> PictureMap | None:
        """The map in a panel."""
        return self.wall.map_at(place)

    def picked_inside(self) -> Booleans | None:
        """The picked pixels as a map."""
        grid = self.grid
        return None if grid is None else grid.inside(self.desk.selection.look.picked)

    # From the moment to the views

    def refresh(self) -> None:
        """Draw everything as the moment is."""
        found, grid = self.desk.moment.found, self.grid
        if found is None or grid is None:
            self.finding.show_pieces([("Maps appear with the first model of pixels.", ())])
        elif self._told is not found.model:
            if self.wall.behind.whole is not None:
                self.wall.behind.go_over(True)
            self._told = found.model
            self._look_for_objects(found, grid)
        rest = (self.live_pixel.keep_up, self.beside.pixels.show, self._show_strips, self._show_pick)
        self._turns.run((*self.wall.parts(), *rest), self.desk.has_much)

    def _look_for_objects(self, found: Evaluation, grid: PixelGrid) -> None:
        """Behind; the sentence of before stays until then."""

        def work(watch: Watch) -> tuple[list[StrangeObject], Pieces]:
            objects = strange_objects(found, grid)
            return objects, finding(found, grid, objects)

        def done(answer: Any) -> None:
            if isinstance(answer, Exception):
                raise answer
            if self._told is found.model:
                self.objects, pieces = answer
                self.finding.show_pieces(pieces)

        self.desk.live.ask("maps objects", None, work, done)

    def _show_strips(self) -> None:
        self.beside.show_strips(self.wall.subjects, self.wall.behind.smooth)

    def _show_pick(self) -> None:
        grid, look = self.grid, self.desk.selection.look
        if grid is not None:
            self.wall.show_outline(outline(grid.inside(look.picked)) if look.picked else [])
        self._show_cursor()

    def _show_cursor(self) -> None:
        grid, look = self.grid, self.desk.selection.look
        if grid is not None:
            cell = None
            if look.hovered is not None:
                row, column = divmod(int(grid.cells[look.hovered]), grid.layout.columns)
                cell = (column, row)
            self.wall.show_cursor(cell)
        self.beside.show_readings()

    def _on_live(self, changed: frozenset[str]) -> None:
        if changed & {"evaluation", "state", "trouble"}:
            self.redraw()

    def _on_selection(self, changed: frozenset[str]) -> None:
        if not self.isVisible():
            self.redraw()
            return
        if changed & {"picked", "hovered"}:
            self._show_strips()
        if "picked" in changed:
            if any(subject.kind == "likeness" for subject in self.wall.subjects):
                self.wall.show()
            self._show_pick()
        elif changed & {"hovered", "channel"}:
            self._show_cursor()
        if "pair" in changed:
            self.beside.pixels.show()
        if changed & {"picked", "focus", "alone"}:
            self.beside.pixels.emphasise()

    # From hands to the selection and the study

    def _set_tool(self, tool: str) -> None:
        """On the maps and on the plane."""
        self.wall.set_tool(tool)  # type: ignore[arg-type]
        self.beside.pixels.set_tool(tool)  # type: ignore[arg-type]

    def _on_hover(self, cell: tuple[int, int] | None) -> None:
        grid = self.grid
        if grid is None or cell is None:
            self.desk.selection.change(hovered=None)
            return
        row = int(grid.rows_at[cell[1] * grid.layout.columns + cell[0]])
        self.desk.selection.change(hovered=row if row >= 0 else None)

    def _on_pick(self, place: int, inside: Booleans, modifiers: Qt.KeyboardModifier) -> None:
        self.wall.active = place
        self.wall.show_range()
        grid, found = self.grid, self.desk.moment.found
        if grid is not None and found is not None:
            rows = grid.rows_in(inside)
            pick(self.desk.selection, rows[np.isin(rows, found.usable.rows)].tolist(), modifiers)

    def show_kind(self, kind: str) -> None:
        """Put what a kind shows first into the first panel."""
        which = {"smooth": (0.0,), "groups": (3.0,)}[kind]
        self.wall.choose_subject(0, Subject(kind, which))

    def pick_object(self) -> None:
        """Pick the pixels of the strangest object."""
        if self.objects:
            self.desk.selection.pick(self.objects[0].rows.tolist())

    def pick_others(self) -> None:
        """Pick the pixels in the model that are not picked."""
        found, picked = self.desk.moment.found, set(self.desk.selection.look.picked)
        if found is not None:
            self.desk.selection.pick([row for row in found.usable.rows.tolist() if row not in picked])

    def picked_apart(self) -> None:
        """The picked pixels as one more data set of the study, with the recipe of now."""
        state, rows = self.desk.moment.state, sorted(self.desk.selection.look.picked)
        if state.table is None or len(rows) < LEAST:
            self.desk.say(InputError("Too few pixels are picked for a data set.", f"Pick {LEAST} or more."))
            return
        bare = replace(state.table, set_aside={})
        name = f"{bare.name}, {shown(len(rows), ',')} pixels"
        table = replace(bare.take(np.array(rows, dtype=np.intp)), name=name)
        self.desk.selection.forget()
        self.desk.do(AddDataSet(name, table, state.recipe))
