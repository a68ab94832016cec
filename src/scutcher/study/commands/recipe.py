"""Commands on the recipe: the number of components, steps on and off, scaling."""

from __future__ import annotations

from dataclasses import dataclass, replace

from msgspec.structs import replace as changed

from scutcher.core.errors import RecipeError
from scutcher.core.recipe import Recipe, ScaleSettings, Step
from scutcher.core.treatments import treatment
from scutcher.study.state import State


def _with_recipe(state: State, recipe: Recipe) -> State:
    return state if recipe == state.recipe else replace(state, recipe=recipe)


def with_components(recipe: Recipe, k: int) -> Recipe:
    """The recipe with k components kept."""
    return changed(recipe, model=changed(recipe.model, components=k))


@dataclass(frozen=True)
class KeepComponents:
    """Keep k components."""

    k: int

    @property
    def label(self) -> str:
        return f"Keep {self.k} component{'s' if self.k != 1 else ''}"

    def apply(self, state: State) -> State:
        if self.k < 1:
            raise RecipeError(f"{self.k} components were asked for.", "Keep at least 1; nothing was changed.")
        return _with_recipe(state, with_components(state.recipe, self.k))


@dataclass(frozen=True)
class SwitchStep:
    """Switch the treatment at a place of the chain on or off."""

    place: int
    on: bool

    @property
    def label(self) -> str:
        return f"Switch treatment {self.place + 1} {'on' if self.on else 'off'}"

    def apply(self, state: State) -> State:
        steps = _steps(state, self.place)
        steps[self.place] = changed(steps[self.place], on=self.on)
        return _with_recipe(state, changed(state.recipe, treat=tuple(steps)))


@dataclass(frozen=True)
class ScaleBy:
    """Centre and scale in another way."""

    settings: ScaleSettings

    @property
    def label(self) -> str:
        return f"Centre {self.settings.centre}, scale {self.settings.method}"

    def apply(self, state: State) -> State:
        return _with_recipe(state, changed(state.recipe, scale=self.settings))


@dataclass(frozen=True)
class AddStep:
    """Put a treatment, with its defaults, at the end of the chain."""

    method: str

    @property
    def label(self) -> str:
        return f"Add {treatment(self.method).name}"

    def apply(self, state: State) -> State:
        step = Step(self.method, treatment(self.method).parameters())
        return _with_recipe(state, changed(state.recipe, treat=(*state.recipe.treat, step)))


@dataclass(frozen=True)
class RemoveStep:
    """Take the treatment at a place off the chain."""

    place: int

    @property
    def label(self) -> str:
        return f"Remove treatment {self.place + 1}"

    def apply(self, state: State) -> State:
        steps = _steps(state, self.place)
        del steps[self.place]
        return _with_recipe(state, changed(state.recipe, treat=tuple(steps)))


def _steps(state: State, place: int) -> list[Step]:
    """The steps of a chain that has one at this place."""
    steps = list(state.recipe.treat)
    if not 0 <= place < len(steps):
        raise RecipeError(
            f"There is no treatment {place + 1}; the chain has {len(steps)}.", "Nothing was changed."
        )
    return steps
