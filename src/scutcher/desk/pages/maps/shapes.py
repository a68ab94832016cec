"""Shapes whose amounts are mapped: means of picked pixels, or found without references."""

from __future__ import annotations

from functools import partial
from typing import Any

from msgspec.structs import replace

from scutcher.core.errors import InputError
from scutcher.core.recipes.unmix_settings import Shape
from scutcher.desk.context import Desk
from scutcher.desk.widgets.choice_menu import ChoiceMenu
from scutcher.study.document.commands.series import UnmixBy

RULES = {
    "not-negative": "amounts not negative",
    "free": "amounts free",
    "sum-to-one": "amounts sum to one",
}


class MapShapes:
    """What it changes are commands of the study."""

    def __init__(self, desk: Desk) -> None:
        self._desk = desk

    def fill(self, menu: ChoiceMenu) -> None:
        """The choices as they are now."""
        how = self._desk.moment.state.recipe.unmix
        menu.add("keep the picked pixels as a shape", False, self.keep_picked)
        for shape in how.shapes:
            menu.add(f"without {shape.name}", False, partial(self.drop, shape.name))
        menu.line()
        for number in range(2, 7):
            own = how.number == number
            menu.add(f"find {number} shapes", own, partial(self.change, number=None if own else number))
        menu.line()
        for rule, words in RULES.items():
            menu.add(words, how.rule == rule, partial(self.change, rule=rule))

    def change(self, **fields: Any) -> bool:
        """One command with other settings."""
        return self._desk.do(UnmixBy(replace(self._desk.moment.state.recipe.unmix, **fields)))

    def keep_picked(self) -> None:
        """The mean of the picked pixels as a shape; named by their class where they have one."""
        state, picked = self._desk.moment.state, self._desk.selection.look.picked
        if state.table is None or not picked:
            self._desk.say(InputError("No pixel is picked.", "Pick some of one stuff."))
            return
        kept, ids = state.recipe.unmix.shapes, state.table.ids
        shape = Shape(name=self._name(picked), samples=tuple(ids[row] for row in picked))
        if len(kept) == 10:
            self._desk.say(InputError("There are ten shapes already.", "Take one away first."))
            return
        self.change(shapes=(*kept, shape))

    def _name(self, picked: tuple[int, ...]) -> str:
        state = self._desk.moment.state
        assert state.table is not None
        taken = {shape.name for shape in state.recipe.unmix.shapes}
        column = next((c for c in state.table.classes if c.name == state.colour_by), None)
        levels = set() if column is None else {column.values[row] for row in picked}
        name = next(iter(levels)) if len(levels) == 1 else ""
        base = name or f"{len(picked)} pixels"
        count = 1
        while (own := base if count == 1 else f"{base} {count}") in taken:
            count += 1
        return own

    def drop(self, name: str) -> None:
        """Without a shape."""
        kept = self._desk.moment.state.recipe.unmix.shapes
        self.change(shapes=tuple(shape for shape in kept if shape.name != name))
