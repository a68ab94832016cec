"""Shapes of the study as pages change them: kept, taken away, found, and by which rule."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import Any

from msgspec.structs import replace

from scutcher.core.errors import InputError
from scutcher.core.recipes.unmix_settings import Shape, UnmixSettings
from scutcher.desk.context import Desk
from scutcher.desk.widgets.choice_menu import ChoiceMenu
from scutcher.study.document.commands.series import UnmixBy

RULES = {
    "not-negative": "amounts not negative",
    "free": "amounts free",
    "sum-to-one": "amounts sum to one",
}
MOST = 10
"""Shapes that a study can have."""


class ShapeSettings:
    """What it changes are commands of the study."""

    def __init__(self, desk: Desk) -> None:
        self.desk = desk

    @property
    def settings(self) -> UnmixSettings:
        """Of the study."""
        return self.desk.moment.state.recipe.unmix

    def change(self, **fields: Any) -> bool:
        """One command with other settings."""
        return self.desk.do(UnmixBy(replace(self.settings, **fields)))

    def add(self, *shapes: Shape) -> None:
        """More shapes, in place of those that have their names."""
        known = {shape.name for shape in shapes}
        rest = tuple(shape for shape in self.settings.shapes if shape.name not in known)
        if len(rest) + len(shapes) > MOST:
            self.desk.say(InputError("There are ten shapes already.", "Take one away first."))
            return
        self.change(shapes=(*rest, *shapes))

    def drop(self, name: str) -> None:
        """Without a shape."""
        self.change(shapes=tuple(shape for shape in self.settings.shapes if shape.name != name))

    def offer_drops(self, menu: ChoiceMenu) -> None:
        """A line for each shape that can be taken away."""
        for shape in self.settings.shapes:
            menu.add(f"without {shape.name}", False, partial(self.drop, shape.name))

    def offer_numbers(self, menu: ChoiceMenu, find: Callable[[int | None], object]) -> None:
        """How many are to be found; the one that is chosen leads back to none."""
        for number in range(2, 7):
            own = self.settings.number == number
            menu.add(f"find {number} shapes", own, partial(find, None if own else number))

    def offer_rules(self, menu: ChoiceMenu) -> None:
        """What amounts must be."""
        for rule, words in RULES.items():
            menu.add(words, self.settings.rule == rule, partial(self.change, rule=rule))
