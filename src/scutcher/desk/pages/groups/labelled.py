"""Classes as labelled: the table, the plane, where two differ, and the share right held out."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from typing import Any

import numpy as np
from PySide6.QtWidgets import QWidget

from scutcher.charts.held_out_groups import finding
from scutcher.core.errors import InputError
from scutcher.core.words import count_of
from scutcher.desk.context import Desk, follow, follow_moment
from scutcher.desk.deferred import InTurns, Soon
from scutcher.desk.pages.groups.class_panel import ClassPanel
from scutcher.desk.pages.groups.difference_panels import DifferencePanels
from scutcher.desk.pages.groups.held_out_panel import HeldOutPanel
from scutcher.desk.pages.groups.judging import Judging
from scutcher.desk.pages.groups.plane_panel import PlanePanel
from scutcher.desk.pages.showing import View, emphasise
from scutcher.desk.widgets.columns import two_columns
from scutcher.desk.widgets.finding import Say
from scutcher.study.evaluation.grouping import Grouping, grouping_of

AT_ONCE = 5_000
"""Samples up to which the passes over them take less than a frame."""


class Labelled(QWidget):
    """Reads the moment; its own choice is which two classes are looked at."""

    def __init__(self, desk: Desk, say: Say) -> None:
        super().__init__()
        self.desk, self._say = desk, say
        self.grouping: Grouping | None = None
        self.two: tuple[int, int] | None = None
        self._warmed: Grouping | None = None
        self._turns = InTurns(self)
        self.redraw = Soon(self.refresh, self)
        self.judging = Judging(desk, self.redraw, self._tell)

    def build(self) -> Iterator[None]:
        """Its four panels, one after the other."""
        desk = self.desk
        self.classes = ClassPanel(desk)
        self.classes.chosen.connect(self._on_cell)
        yield
        self.differences = DifferencePanels(desk)
        yield from self.differences.build()
        yield
        self.plane = PlanePanel(desk, self._show_classes)
        yield
        self.held_out = HeldOutPanel(desk, self.judging)
        yield
        left, right = (
            [(self.classes, 300), (self.differences, 345)],
            [(self.plane, 408), (self.held_out, 228)],
        )
        two_columns(self, left, right)
        yield
        follow_moment(self, desk, self.redraw)
        follow(self, desk.selection, self._on_selection)

    @property
    def views(self) -> tuple[View, ...]:
        """Everything that draws a chart here."""
        return (*self.differences.views, self.plane.view, self.held_out.view)

    # From the moment to the views

    def refresh(self) -> None:
        """Draw everything as the moment is."""
        self.grouping = self._grouping()
        if self.grouping is None:
            self._show_nothing()
            return
        if len(self.grouping.codes) > AT_ONCE and self._warmed is not self.grouping:
            self._ask_warm(self.grouping)
            return
        self.judging.judge(self.grouping)
        self._choose_two()
        parts = (self._show_classes, *self._of_two(), self._show_finding)
        self._turns.run(parts, self.desk.has_much or len(self.grouping.codes) > AT_ONCE)

    def _show_finding(self) -> None:
        if self.judging.trouble:
            self._say([(self.judging.trouble, ())])
        elif self.grouping is not None:
            self._say(finding(self.grouping, self.judging.held))

    def _tell(self) -> None:
        """How far the assigning is."""
        if self.judging.share is not None and self.isVisible():
            self.held_out.panel.empty.setText(
                f"left-out samples are being assigned: {self.judging.share:.0%}"
            )

    def _ask_warm(self, grouping: Grouping) -> None:
        """Of very many samples the passes are made behind, before anything is drawn."""
        self._say([(f"{count_of(grouping.codes)} are being looked at …", ())])

        def done(answer: Any) -> None:
            if isinstance(answer, Exception):
                raise answer
            self._warmed = answer
            self.refresh()

        self.desk.live.ask("groups warm", None, lambda watch: grouping.warm(), done)

    def _grouping(self) -> Grouping | None:
        """The classes of the colouring, or of the first column; the same object while nothing changed."""
        found, state = self.desk.moment.found, self.desk.moment.state
        if found is None or not found.treated.classes:
            return None
        names = [column.name for column in found.treated.classes]
        column = state.colour_by if state.colour_by in names else ""
        try:
            made = grouping_of(found, column, state.recipe.groups)
        except InputError:
            return None
        kept = self.grouping
        if (
            kept is not None
            and (kept.found, kept.column) == (found, made.column)
            and kept.settings == made.settings
        ):
            return kept
        return made if len(made.present) else None

    def _show_nothing(self) -> None:
        waiting = self.desk.moment.found is None
        self._say([("It appears with the first model." if waiting else "No classes to tell apart yet.", ())])
        self.classes.show_nothing(
            "Tag samples with a class (T), or name a class column when the file is read."
        )
        self.plane.show_nothing()
        self.differences.show_nothing()
        self.held_out.show_nothing()

    def _choose_two(self) -> None:
        """The two classes that are looked at: those chosen, or the two that lie nearest."""
        assert self.grouping is not None
        present = self.grouping.present.tolist()
        if self.two is not None and set(self.two) <= set(present):
            return
        self.two = None
        if len(present) > 1:
            away = np.nan_to_num(self.grouping.distances, nan=np.inf)
            np.fill_diagonal(away, np.inf)
            one, two = np.unravel_index(int(away.argmin()), away.shape) if np.isfinite(away).any() else (0, 1)
            self.two = (present[int(one)], present[int(two)])

    def _show_classes(self) -> None:
        if self.grouping is not None:
            pair = self.plane.pair(self.grouping)
            self.classes.show_classes(self.grouping, self.judging.held, pair)

    def _show_two(self) -> None:
        for part in self._of_two():
            part()

    def _of_two(self) -> tuple[Callable[[], None], ...]:
        """What draws the two classes that are looked at; each part the newest when it is called."""
        return self._show_plane, self._show_difference, self._show_held_out

    def _show_plane(self) -> None:
        if self.grouping is not None:
            self.plane.held = self.judging.held
            self.plane.show_classes(self.grouping, self.two)

    def _show_difference(self) -> None:
        if self.grouping is not None:
            self.differences.show_two(self.grouping, self.two)

    def _show_held_out(self) -> None:
        if self.grouping is not None:
            self.held_out.show_held(self.grouping, self.two)

    def _on_selection(self, changed: frozenset[str]) -> None:
        if not self.isVisible():
            self.redraw()
            return
        if self.grouping is None:
            return
        look = self.desk.selection.look
        if "pair" in changed and not self.plane.clearest:
            self.plane.show_classes(self.grouping, self.two)
        if "picked" in changed:
            self.differences.show_two(self.grouping, self.two)
        if changed & {"focus", "alone"}:
            self.plane.show_legend(self.grouping)
        if changed & {"picked", "focus", "alone"}:
            emphasise(self.desk, self.views, self.desk.moment.state)
        if "hovered" in changed:
            self.plane.view.hover_mark(look.hovered)
        if changed & {"channel", "channels"}:
            for strip in self.differences.views:
                strip.set_cursor(look.channel)

    # From the person

    def _on_cell(self, row: int, column: int) -> None:
        """A cell of the table: its samples are picked, and its two classes looked at."""
        grouping, held = self.grouping, self.judging.held
        if grouping is None:
            return
        of_table, codes = grouping.found.usable.rows, grouping.codes
        if row == column:
            self.desk.selection.pick(of_table[grouping.rows(row)].tolist())
            return
        self.two = (row, column)
        self._show_two()
        if held is not None:
            given = held.assignment.assigned[:, held.assignment.k - 1]
            ways = ((row, column), (column, row))
            mixed = [((codes == one) & (given == other).any(axis=0)) for one, other in ways]
            self.desk.selection.pick(of_table[mixed[0] | mixed[1]].tolist())

    def pick_doubtful(self) -> None:
        """Pick every sample whose label is doubtful."""
        if self.grouping is not None and self.judging.held is not None:
            doubtful = self.judging.held.assignment.doubtful.rows
            self.desk.selection.pick(self.grouping.found.usable.rows[doubtful].tolist())
