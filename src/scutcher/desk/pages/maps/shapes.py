"""Shapes whose amounts are mapped: means of picked pixels, or found without references."""

from __future__ import annotations

from scutcher.core.errors import InputError
from scutcher.core.recipes.unmix_settings import Shape
from scutcher.desk.pages.shape_settings import ShapeSettings
from scutcher.desk.widgets.choice_menu import ChoiceMenu


class MapShapes(ShapeSettings):
    """What it changes are commands of the study."""

    def fill(self, menu: ChoiceMenu) -> None:
        """The choices as they are now."""
        menu.add("keep the picked pixels as a shape", False, self.keep_picked)
        self.offer_drops(menu)
        menu.line()
        self.offer_numbers(menu, lambda number: self.change(number=number))
        menu.line()
        self.offer_rules(menu)

    def keep_picked(self) -> None:
        """The mean of the picked pixels as a shape; named by their class where they have one."""
        state, picked = self.desk.moment.state, self.desk.selection.look.picked
        if state.table is None or not picked:
            self.desk.say(InputError("No pixel is picked.", "Pick some of one stuff."))
            return
        ids = state.table.ids
        self.add(Shape(name=self._name(picked), samples=tuple(ids[row] for row in picked)))

    def _name(self, picked: tuple[int, ...]) -> str:
        state = self.desk.moment.state
        assert state.table is not None
        taken = {shape.name for shape in self.settings.shapes}
        column = next((c for c in state.table.classes if c.name == state.colour_by), None)
        levels = set() if column is None else {column.values[row] for row in picked}
        name = next(iter(levels)) if len(levels) == 1 else ""
        base = name or f"{len(picked)} pixels"
        count = 1
        while (own := base if count == 1 else f"{base} {count}") in taken:
            count += 1
        return own
