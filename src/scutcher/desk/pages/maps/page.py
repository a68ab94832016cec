"""The Maps page: maps side by side under one lens, the plane of pixels, spectra, readings."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from functools import partial
from typing import Any

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QGridLayout, QHBoxLayout, QVBoxLayout, QWidget

from scutcher.charts.description import Chart
from scutcher.charts.emphasis import colouring_of
from scutcher.charts.map_files import outline
from scutcher.charts.map_finding import Pieces, StrangeObject, finding, strange_objects
from scutcher.charts.maps import PictureMap
from scutcher.charts.memo import ChartMemo
from scutcher.charts.pixels import (
    Subject,
    inks,
    loading_strip,
    map_of,
    nearest,
    of_all_pixels,
    readings,
    spectra_strip,
    structure_of,
    title_of,
    two_regions,
)
from scutcher.charts.scores import scores
from scutcher.core.arrays import Booleans
from scutcher.core.progress import Watch
from scutcher.desk.context import Desk, follow
from scutcher.desk.deferred import Soon
from scutcher.desk.pages.declaration import PageView
from scutcher.desk.pages.maps.behind import MapsBehind
from scutcher.desk.pages.maps.colour_range import RangeView
from scutcher.desk.pages.maps.map_panel import Choices, MapPanel
from scutcher.desk.pages.maps.writing import MapWriter
from scutcher.desk.pages.showing import emphasise, show
from scutcher.desk.painting.map_view import Lens
from scutcher.desk.painting.plane import PlaneView
from scutcher.desk.painting.strip import StripView
from scutcher.desk.widgets.choice_menu import ChoiceMenu
from scutcher.desk.widgets.figures_table import FiguresTable
from scutcher.desk.widgets.finding import Finding
from scutcher.desk.widgets.gestures import attend_plane, attend_strip, pick
from scutcher.desk.widgets.panel import ChartPanel, paper
from scutcher.study.document.commands.samples import SetAside
from scutcher.study.evaluation.evaluation import Evaluation
from scutcher.study.evaluation.pixels import PixelGrid, pixel_grid
from scutcher.study.evaluation.whole_image import is_thinned

STARTS = (Subject("score", (0.0,)), Subject("inks", (0.0, 1.0, 2.0)), Subject("q", ()), Subject("t2", ()))
TOOLS = {
    "box": "box|Drag a rectangle on a map: its pixels are picked. Shift adds, Ctrl toggles",
    "lasso": "lasso|Drag a free line around pixels",
    "brush": "brush|Drag over pixels",
    "flood": "like it|Click a pixel: what is connected to it and has a like value on this map is picked",
}
RANGE = 98
"""Pixels of the histogram with its heading."""

SMOOTH_FIRST = 6
"""Components by smoothness that are offered."""


class MapsPage(PageView):
    """Reads the moment; picks are samples as everywhere; the maps share one lens and one cursor."""

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.desk = desk
        self.lens, self.count, self.kind = Lens(), 2, "less"
        self.objects: list[StrangeObject] = []
        self._memo = ChartMemo()
        self._ranges: dict[Subject, tuple[float, float]] = {}
        self._active = 0
        self._told: object = None
        self.behind = MapsBehind(desk, self._arrived)
        self.finding = Finding(desk)
        self.panels = [
            MapPanel(self.lens, subject, partial(self.choose_subject, place), self.choices)
            for place, subject in enumerate(STARTS)
        ]
        for place, panel in enumerate(self.panels):
            panel.view.hovered.connect(self._on_hover)
            panel.view.picked.connect(partial(self._on_pick, place))
        self._make_rest()
        self._arrange()
        self.redraw = Soon(self.refresh, self)
        follow(self, desk.live, self._on_live)
        follow(self, desk.selection, self._on_selection)
        self.refresh()

    # What is on the page

    def _make_rest(self) -> None:
        desk = self.desk
        self.plane, self.spectra, self.loading = PlaneView(mark_size=4.0), StripView(), StripView()
        self.plane_panel = ChartPanel(self.plane, "Scores of the pixels. Drag to pick them, as on the maps.")
        self.plane_panel.add_choices(
            {"box": "box|Drag a rectangle", "lasso": "lasso|Drag a free line"},
            lambda key: setattr(self.plane, "lasso", key == "lasso"),
        )
        attend_plane(self.plane, desk.selection)
        self.spectra_panel = ChartPanel(self.spectra, "Spectra of pixels, treated", bottom_title=False)
        self.kinds = self.spectra_panel.add_choices(
            {
                "less": "less mean|Less the mean of all pixels, so that small differences show",
                "plain": "as they are|Treated spectra",
                "two": "two regions|The mean of the pick less that of the pick before, with the SD of pixels",
            },
            self._set_kind,
        )
        self.loading_panel = ChartPanel(self.loading, "What the component on the map is made of")
        for strip in (self.spectra, self.loading):
            strip.setMinimumHeight(50)
            attend_strip(strip, desk.selection)
        self.spectra.hide_figures()
        self.spectra.ground.setXLink(self.loading.ground)
        self.table = FiguresTable(["", "cursor", "picked"], (1, 2))
        self.range = RangeView(self.set_range)
        self.writer = MapWriter(desk, self.shown_maps, self.picked_inside)

    def _arrange(self) -> None:
        header = QHBoxLayout()
        header.setContentsMargins(4, 0, 0, 0)
        header.addWidget(self.finding, 1)
        self.tools = self._choices_into(header)
        self.view_menu = ChoiceMenu(
            "maps ▾", "How many maps, smooth or honest pixels, the range", self._fill_view
        )
        self.write_menu = ChoiceMenu("write ▾", "Maps and regions as files", self.writer.fill)
        for menu in (self.view_menu, self.write_menu):
            header.addWidget(menu)
        self.maps = QGridLayout()
        self.maps.setSpacing(7)
        self.maps.setColumnStretch(0, 1)
        self._lay_maps()
        top, bottom, strips, right = QHBoxLayout(), QHBoxLayout(), QVBoxLayout(), QVBoxLayout()
        for layout in (top, bottom, strips, right):
            layout.setSpacing(7)
        top.addLayout(self.maps, 79)
        top.addWidget(self.plane_panel, 26)
        strips.addWidget(self.spectra_panel, 100)
        strips.addWidget(self.loading_panel, 95)
        self.range_paper = paper("Range of the colours", self.range)
        self.range_paper.setFixedHeight(RANGE)
        right.addWidget(paper("Readings", self.table), 1)
        right.addWidget(self.range_paper)
        bottom.addLayout(strips, 79)
        bottom.addLayout(right, 26)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(8, 5, 8, 7)
        whole.setSpacing(5)
        whole.addLayout(header)
        whole.addLayout(top, 100)
        whole.addLayout(bottom, 92)

    def _choices_into(self, header: QHBoxLayout) -> dict[str, Any]:
        from scutcher.desk.widgets.panel import choice_words

        tools = choice_words(self, TOOLS, self.set_tool)
        for button in tools.values():
            header.addWidget(button)
        return tools

    def _lay_maps(self) -> None:
        """One row of up to two maps, two rows of more."""
        self.maps.setColumnStretch(1, 1 if self.count > 1 else 0)
        for place, panel in enumerate(self.panels):
            self.maps.removeWidget(panel)
            panel.setVisible(place < self.count)
            if place < self.count:
                self.maps.addWidget(panel, place // 2, place % 2)

    def views(self) -> Sequence[Any]:
        """Everything that draws a chart here."""
        return (*(panel.view for panel in self.panels[: self.count]), self.plane, self.spectra, self.loading)

    def _fill_view(self, menu: ChoiceMenu) -> None:
        for count in (1, 2, 3, 4):
            menu.add(f"{count} map{'s' * (count > 1)}", self.count == count, partial(self.show_count, count))
        menu.line()
        smooth = self.panels[0].view.smooth
        menu.add("smooth between pixels", smooth, partial(self._set_smooth, not smooth))
        menu.add("whole picture", False, self.lens.whole)
        if is_thinned(self.desk.moment.state):
            on = self.behind.whole is not None
            menu.add("all pixels of the file", on, partial(self.behind.go_over, not on))
        menu.line()
        menu.add("robust range of the colours", False, self._forget_range)
        menu.add("mask pixels outside the range", False, self.mask_outside)

    # Data

    @property
    def grid(self) -> PixelGrid | None:
        """Where the samples lie."""
        return pixel_grid(self.desk.moment.state.table)

    def choices(self) -> Choices | None:
        """What maps can show now."""
        found, state, look = self.desk.moment.found, self.desk.moment.state, self.desk.selection.look
        if found is None or state.table is None:
            return None
        axis = found.treated.axis
        places = [axis.places()[nearest(axis, place)] for place in look.channels[:2]]
        if not places:
            at = look.channel if look.channel is not None else axis.places()[len(axis) // 2]
            places = [axis.places()[nearest(axis, at)]]
        names = tuple(axis.name(nearest(axis, place)) for place in places)
        picked, joint = bool(look.picked), found.model.joint is not None
        smooth = min(SMOOTH_FIRST, len(axis))
        return Choices(
            found.model.k, smooth, tuple(map(float, places)), names, picked, joint, bool(state.table.classes)
        )

    def map_at(self, place: int) -> PictureMap | None:
        """The map in a panel, with the range it was given."""
        found, grid, state = self.desk.moment.found, self.grid, self.desk.moment.state
        if found is None or grid is None:
            return None
        subject = self.panels[place].subject
        behind = self.behind.of(found, grid, subject)
        picked = self.desk.selection.look.picked if subject.kind == "likeness" else ()
        one = map_of(state, found, grid, subject, picked, behind)
        whole = self.behind.whole_of(found)
        if one is not None and whole is not None and subject.kind in ("score", "t2", "q", "joint"):
            one = of_all_pixels(one, whole, subject)
        known = self._ranges.get(subject)
        return one if one is None or known is None else one.between(*known)

    def shown_maps(self) -> list[PictureMap]:
        """The maps that are on the page."""
        found = [self.map_at(place) for place in range(self.count)]
        return [one for one in found if one is not None]

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
            if self.behind.whole is not None:
                self.behind.go_over(True)
            self._told = found.model
            self._look_for_objects(found, grid)
        self._show_maps()
        self._show_plane()
        self._show_strips()
        self._show_pick()

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

    def _show_maps(self) -> None:
        found, grid = self.desk.moment.found, self.grid
        if found is None or grid is None:
            return
        for place in range(self.count):
            panel = self.panels[place]
            if panel.subject.kind == "inks":
                chosen = [int(a) for a in panel.subject.which if a < found.model.k]
                names = [f"component {a + 1}" for a in chosen]
                picture = inks(found, grid, chosen)
                panel.show_inks(picture, names, title_of(panel.subject, found), grid.layout)
                continue
            one = self.map_at(place)
            panel.show_picture(one, self._note(one, panel.subject), grid.layout, self.behind.words)
        self._show_range()

    def _arrived(self) -> None:
        self._show_maps()
        self._show_strips()

    def _note(self, one: PictureMap | None, subject: Subject) -> str:
        """How much of a map is structure."""
        whole = self.behind.whole
        if one is not None and one.step > 1 and whole is not None:
            all_of = f"{whole.rows * whole.columns:,} pixels"
            return f"all {all_of}" if whole.done == 1.0 else f"{100 * whole.done:.0f} % of {all_of}"
        if subject.kind == "groups":
            return self.behind.said(subject)
        found = None if one is None else structure_of(one)
        if found is None or one is None:
            return ""
        noise = " · noise" if found.is_noise else ""
        past = ""
        if one.limit is not None:
            count = int((one.values[np.isfinite(one.values)] > one.limit).sum())
            past = f" · {count:,} past the limit"
        smooth = self.behind.said(subject)
        return f"neighbours agree {max(found.agreement, 0.0):.2f}{noise}{past}{smooth}"

    def _show_plane(self) -> None:
        state, found = self.desk.moment.state, self.desk.moment.found
        pair = self.desk.selection.look.pair
        inputs = (state.table, colouring_of(state), found and found.model, pair)

        def make() -> Chart:
            return replace(scores(state, found, pair), title="Pixels")

        chart = self._memo.get("plane", inputs, make)
        show(self.desk, self.plane_panel, self.plane, chart, state)

    def _show_strips(self) -> None:
        found, look, state = self.desk.moment.found, self.desk.selection.look, self.desk.moment.state
        model = found and found.model
        shown = tuple(panel.subject for panel in self.panels[: self.count])
        chart = self._memo.get(
            "spectra",
            (found, look.picked, look.before, look.hovered if self.kind != "two" else None, self.kind),
            lambda: (
                two_regions(found, look.picked, look.before)
                if self.kind == "two"
                else spectra_strip(found, look.picked, look.hovered, self.kind == "less")
            ),
        )
        show(self.desk, self.spectra_panel, self.spectra, chart, state)
        behind = self.behind.smooth
        chart = self._memo.get("loading", (model, shown, behind), lambda: loading_strip(found, shown, behind))
        show(self.desk, self.loading_panel, self.loading, chart, state)

    def _show_pick(self) -> None:
        found, grid, look = self.desk.moment.found, self.grid, self.desk.selection.look
        if found is None or grid is None:
            return
        polygons = outline(grid.inside(look.picked)) if look.picked else []
        for panel in self.panels:
            panel.view.show_outline(polygons)
        self._show_cursor()

    def _show_cursor(self) -> None:
        found, grid, look = self.desk.moment.found, self.grid, self.desk.selection.look
        if found is None or grid is None:
            return
        cell = None
        if look.hovered is not None:
            row, column = divmod(int(grid.cells[look.hovered]), grid.layout.columns)
            cell = (column, row)
        for panel in self.panels:
            panel.view.show_cursor(cell)
        self.table.show_rows(readings(found, look.picked, look.hovered, self.desk.moment.state))
        self.spectra.set_cursor(look.channel)
        self.loading.set_cursor(look.channel)

    def _show_range(self) -> None:
        if self._active >= self.count:
            self._active = 0
        panel = self.panels[self._active]
        self.range.show_map(None if panel.subject.kind == "inks" else self.map_at(self._active))

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
            if any(panel.subject.kind == "likeness" for panel in self.panels[: self.count]):
                self._show_maps()
            self._show_pick()
        elif changed & {"hovered", "channel"}:
            self._show_cursor()
        if "pair" in changed:
            self._show_plane()
        if changed & {"picked", "focus", "alone"}:
            emphasise(self.desk, (self.plane,), self.desk.moment.state)

    # From hands to the selection and the study

    def _on_hover(self, cell: tuple[int, int] | None) -> None:
        grid = self.grid
        if grid is None or cell is None:
            self.desk.selection.change(hovered=None)
            return
        row = int(grid.rows_at[cell[1] * grid.layout.columns + cell[0]])
        self.desk.selection.change(hovered=row if row >= 0 else None)

    def _on_pick(self, place: int, inside: Booleans, modifiers: Qt.KeyboardModifier) -> None:
        self._active = place
        self._show_range()
        grid, found = self.grid, self.desk.moment.found
        if grid is not None and found is not None:
            used = set(found.usable.rows.tolist())
            rows = [row for row in grid.rows_in(inside).tolist() if row in used]
            pick(self.desk.selection, rows, modifiers)

    def choose_subject(self, place: int, subject: Subject) -> None:
        """Another subject in a panel."""
        self.panels[place].subject = subject
        self._active = place
        self._show_maps()
        self._show_strips()

    def show_kind(self, kind: str) -> None:
        """Put what a kind shows first into the first panel."""
        which = {"smooth": (0.0,), "groups": (3.0,)}[kind]
        self.choose_subject(0, Subject(kind, which))

    def show_count(self, count: int) -> None:
        """So many maps side by side."""
        self.count = count
        self._lay_maps()
        self.refresh()

    def set_tool(self, tool: str) -> None:
        """What a drag on a map means."""
        for panel in self.panels:
            panel.view.tool = tool  # type: ignore[assignment]

    def _set_smooth(self, on: bool) -> None:
        for panel in self.panels:
            panel.view.smooth = on
            panel.view.update()

    def _set_kind(self, kind: str) -> None:
        self.kind = kind
        self._show_strips()

    def set_range(self, low: float, high: float) -> None:
        """Other ends of the colours of the active map."""
        self._ranges[self.panels[self._active].subject] = (low, high)
        self._show_maps()

    def _forget_range(self) -> None:
        self._ranges.clear()
        self._show_maps()

    def pick_object(self) -> None:
        """Pick the pixels of the strangest object."""
        if self.objects:
            self.desk.selection.pick(self.objects[0].rows.tolist())

    def pick_others(self) -> None:
        """Pick the pixels in the model that are not picked."""
        found, picked = self.desk.moment.found, set(self.desk.selection.look.picked)
        if found is not None:
            self.desk.selection.pick([row for row in found.usable.rows.tolist() if row not in picked])

    def mask_outside(self) -> None:
        """Set aside the pixels whose value on the active map lies outside the range of its colours."""
        one, grid = self.map_at(self._active), self.grid
        if one is None or grid is None or one.tone == "categories":
            return
        outside = np.isfinite(one.values) & ((one.values < one.low) | (one.values > one.high))
        rows = grid.rows_in(outside)
        if len(rows):
            reason = f"masked: {one.title} outside {one.low:.4g} to {one.high:.4g}"
            self.desk.do(SetAside(tuple(rows.tolist()), reason))
