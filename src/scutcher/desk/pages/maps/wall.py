"""The maps side by side: what each shows, one lens, one cursor, one pick, the range of their colours."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

import numpy as np
from PySide6.QtWidgets import QGridLayout

from scutcher.charts.map_files import Ring
from scutcher.charts.maps import PictureMap
from scutcher.charts.memo import Memo
from scutcher.charts.pixels import (
    Subject,
    inks,
    map_of,
    nearest,
    of_all_pixels,
    shape_name,
    structure_of,
    title_of,
)
from scutcher.core.images.map_structure import MapStructure
from scutcher.core.words import shown
from scutcher.desk.context import Desk
from scutcher.desk.pages.maps.behind import MapsBehind
from scutcher.desk.pages.maps.colour_range import RangeView
from scutcher.desk.pages.maps.map_panel import Choices, MapPanel
from scutcher.desk.painting.map_shown import Lens
from scutcher.desk.painting.map_tools import Tool
from scutcher.study.document.commands.kinds import SMOOTH, OrderBySmoothness
from scutcher.study.evaluation.evaluation import Evaluation
from scutcher.study.evaluation.pixels import PixelGrid, pixel_grid

STARTS = (Subject("score", (0.0,)), Subject("inks", (0.0, 1.0, 2.0)), Subject("q", ()), Subject("t2", ()))

SMOOTH_FIRST = 6
"""Components by smoothness that are offered."""

OF_ALL = ("score", "t2", "q", "joint")
"""What is known of all pixels of a file when they are gone over."""


class MapWall:
    """Draws nothing itself: it fills its panels. `changed` is told when they show something else."""

    def __init__(self, desk: Desk, changed: Callable[[], None]) -> None:
        self.desk, self._changed = desk, changed
        self.lens, self.count, self.active = Lens(), 2, 0
        self._smooth = False
        self._ranges: dict[Subject, tuple[float, float]] = {}
        self._of: Evaluation | None = None
        self._maps: Memo[PictureMap | None] = Memo()
        self._inks: Memo[np.ndarray] = Memo()
        self._structures: Memo[MapStructure | None] = Memo()
        self.behind = MapsBehind(desk, self._arrived)
        self.range = RangeView(self.set_range)
        self.panels = [
            MapPanel(self.lens, subject, partial(self.choose_subject, place), self.choices)
            for place, subject in enumerate(STARTS)
        ]
        self.layout = QGridLayout()
        self.layout.setSpacing(7)
        self._lay()

    @property
    def shown(self) -> list[MapPanel]:
        """The panels that can be seen."""
        return self.panels[: self.count]

    @property
    def subjects(self) -> tuple[Subject, ...]:
        """What they show."""
        return tuple(panel.subject for panel in self.shown)

    @property
    def grid(self) -> PixelGrid | None:
        """Where the samples lie."""
        return pixel_grid(self.desk.moment.state.table)

    def _lay(self) -> None:
        """One row of up to three maps, two rows of four."""
        across = 2 if self.count == 4 else self.count
        for column in range(3):
            self.layout.setColumnStretch(column, int(column < across))
        for place, panel in enumerate(self.panels):
            self.layout.removeWidget(panel)
            seen = place < self.count
            if not seen or panel.parentWidget() is not None:  # alone it would be a window of its own
                panel.setVisible(seen)
            if seen:
                self.layout.addWidget(panel, place // across, place % across)

    # What maps show

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
        how = found.recipe.unmix
        count = how.number or len(how.shapes)
        return Choices(
            found.model.k,
            smooth,
            tuple(map(float, places)),
            names,
            picked,
            joint,
            bool(state.table.classes),
            tuple(shape_name(found, place) for place in range(count)),
        )

    def map_of_samples(self, place: int) -> PictureMap | None:
        """The map in a panel over the samples of the study, with the range it was given."""
        found, grid, state = self.desk.moment.found, self.grid, self.desk.moment.state
        if found is None or grid is None:
            return None
        subject = self.panels[place].subject
        picked = self.desk.selection.look.picked if subject.kind == "likeness" else ()
        behind = self.behind.of(found, grid, subject)
        of_table = (state.table, state.colour_by, picked)
        inputs = (found, grid, subject.kind, subject.which, behind.smooth, behind.mixture, behind.groups)
        make = partial(map_of, state, found, grid, subject, picked, behind)
        one = self._maps.get(place, (*inputs, *of_table), make)
        known = self._ranges.get(subject)
        return one if one is None or known is None else one.between(*known)

    def map_at(self, place: int) -> PictureMap | None:
        """The map in a panel: of all pixels of the file, where they are gone over."""
        one, found = self.map_of_samples(place), self.desk.moment.found
        whole = None if found is None else self.behind.whole_of(found)
        subject = self.panels[place].subject
        if one is not None and whole is not None and subject.kind in OF_ALL:
            one = of_all_pixels(one, whole, subject)
        return one

    def shown_maps(self) -> list[PictureMap]:
        """The maps that can be seen."""
        found = [self.map_at(place) for place in range(self.count)]
        return [one for one in found if one is not None]

    @property
    def by_smoothness(self) -> bool:
        """Whether the model has its components in the order of their smoothness."""
        model = self.desk.moment.state.model
        return model is not None and model.kind == SMOOTH

    def order_by_smoothness(self, on: bool) -> None:
        """One command; the maps follow."""
        self.desk.do(OrderBySmoothness(on))

    def _follow_kind(self) -> None:
        """Maps of scores are of the components that the model has: by variance, or by smoothness."""
        now = self.by_smoothness
        if now == self._smooth:
            return
        self._smooth = now
        before, after = ("score", "smooth") if now else ("smooth", "score")
        for panel in self.panels:
            if panel.subject.kind == before:
                panel.subject = Subject(after, panel.subject.which)
        if not any(panel.subject.kind == after for panel in self.shown):
            self.panels[0].subject = Subject(after, (0.0,))

    def show(self) -> None:
        """Draw every panel as the moment is."""
        for part in self.parts():
            part()

    def parts(self) -> tuple[Callable[[], None], ...]:
        """The same, a function for each panel, which draws what is newest when it is called."""
        panels = (partial(self._show_panel, place) for place in range(self.count))
        return self._follow_model, *panels, self.show_range

    def _follow_model(self) -> None:
        """Maps of another model are not held: it may be large."""
        found = self.desk.moment.found
        if found is not self._of:
            self._of = found
            for memo in (self._maps, self._inks, self._structures):
                memo.clear()
        self._follow_kind()

    def _show_panel(self, place: int) -> None:
        found, grid, panel = self.desk.moment.found, self.grid, self.panels[place]
        if found is None or grid is None:
            return
        if panel.subject.kind == "inks":
            chosen = tuple(int(a) for a in panel.subject.which if a < found.model.k)
            names = [f"component {a + 1}" for a in chosen]
            picture = self._inks.get(place, (found, grid, chosen), partial(inks, found, grid, chosen))
            panel.show_inks(picture, names, title_of(panel.subject, found), grid.layout)
            return
        one = self.map_at(place)
        panel.show_picture(one, self._note(one, place), grid.layout, self.behind.words)

    def _note(self, one: PictureMap | None, place: int) -> str:
        """How much of a map is structure."""
        whole, subject = self.behind.whole, self.panels[place].subject
        if one is not None and one.step > 1 and whole is not None:
            all_of = f"{shown(whole.rows * whole.columns, ',')} pixels"
            return f"all {all_of}" if whole.done == 1.0 else f"{100 * whole.done:.0f} % of {all_of}"
        if subject.kind == "groups":
            return self.behind.said(subject)
        if one is None:
            return ""
        found = self._structures.get(place, (one.values, one.breaks, one.tone), partial(structure_of, one))
        if found is None:
            return ""
        noise = " · noise" if found.is_noise else ""
        past = ""
        if one.limit is not None:
            count = int((one.values[np.isfinite(one.values)] > one.limit).sum())
            past = f" · {shown(count, ',')} past the limit"
        agreement = shown(max(found.agreement, 0.0), ".2f")
        return f"neighbours agree {agreement}{noise}{past}{self.behind.said(subject)}"

    def show_outline(self, polygons: list[list[Ring]]) -> None:
        """What is picked."""
        for panel in self.panels:
            panel.view.show_outline(polygons)

    def show_cursor(self, cell: tuple[int, int] | None) -> None:
        """What the pointer is on."""
        for panel in self.panels:
            panel.view.show_cursor(cell)

    def show_range(self) -> None:
        """The histogram of the map that somebody turned to last."""
        self.active = self.active if self.active < self.count else 0
        plain = self.panels[self.active].subject.kind != "inks"
        self.range.show_map(self.map_at(self.active) if plain else None)

    def _arrived(self) -> None:
        self.show()
        self._changed()

    # What hands choose

    def choose_subject(self, place: int, subject: Subject) -> None:
        """Another subject in a panel."""
        self.panels[place].subject = subject
        self.active = place
        self._arrived()

    def show_count(self, count: int) -> None:
        """So many maps side by side."""
        self.count = count
        self._lay()
        self._arrived()

    def set_tool(self, tool: Tool) -> None:
        """What a drag on a map means."""
        for panel in self.panels:
            panel.view.hand.take_tool(tool)
            panel.view.update()

    def set_smooth(self, on: bool) -> None:
        """Smooth between pixels, or each as it is."""
        for panel in self.panels:
            panel.view.smooth = on
            panel.view.update()

    def set_range(self, low: float, high: float) -> None:
        """Other ends of the colours of the active map."""
        self._ranges[self.panels[self.active].subject] = (low, high)
        self.show()

    def forget_ranges(self) -> None:
        """The robust ranges."""
        self._ranges.clear()
        self.show()
