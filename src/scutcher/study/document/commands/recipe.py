"""Commands on the recipe: the number of components, steps on and off, scaling."""

from __future__ import annotations

from dataclasses import dataclass, replace

from msgspec.structs import replace as changed

from scutcher.core.errors import RecipeError
from scutcher.core.recipes.recipe import (
    LimitSettings,
    ModelSettings,
    Recipe,
    ScaleSettings,
    Step,
    ValidateSettings,
)
from scutcher.core.treatments import treatment
from scutcher.core.treatments.base import Parameters
from scutcher.study.document.state import State


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
    """Put a treatment into the chain, at the end or at a place; without parameters, with its defaults."""

    method: str
    parameters: Parameters | None = None
    place: int | None = None

    @property
    def label(self) -> str:
        return f"Add {treatment(self.method).name}"

    def apply(self, state: State) -> State:
        step = Step(self.method, self.parameters or treatment(self.method).parameters())
        steps = list(state.recipe.treat)
        steps.insert(len(steps) if self.place is None else self.place, step)
        return _with_recipe(state, changed(state.recipe, treat=tuple(steps)))


@dataclass(frozen=True)
class ChangeStep:
    """Give the treatment at a place other parameters."""

    place: int
    parameters: Parameters

    @property
    def label(self) -> str:
        return f"Change treatment {self.place + 1}"

    def apply(self, state: State) -> State:
        steps = _steps(state, self.place)
        steps[self.place] = changed(steps[self.place], parameters=self.parameters)
        return _with_recipe(state, changed(state.recipe, treat=tuple(steps)))


@dataclass(frozen=True)
class MoveStep:
    """Move the treatment at a place to another place of the chain."""

    place: int
    to: int

    @property
    def label(self) -> str:
        return f"Move treatment {self.place + 1} to place {self.to + 1}"

    def apply(self, state: State) -> State:
        steps = _steps(state, self.place)
        step = steps.pop(self.place)
        steps.insert(max(0, min(self.to, len(steps))), step)
        return _with_recipe(state, changed(state.recipe, treat=tuple(steps)))


@dataclass(frozen=True)
class DuplicateStep:
    """Put the treatment at a place a second time after itself."""

    place: int

    @property
    def label(self) -> str:
        return f"Duplicate treatment {self.place + 1}"

    def apply(self, state: State) -> State:
        steps = _steps(state, self.place)
        steps.insert(self.place + 1, steps[self.place])
        return _with_recipe(state, changed(state.recipe, treat=tuple(steps)))


@dataclass(frozen=True)
class UseRecipe:
    """Take another recipe: from a file, from the shelf, from what was tried."""

    recipe: Recipe
    whence: str

    @property
    def label(self) -> str:
        return f"Use the recipe of {self.whence}"

    def apply(self, state: State) -> State:
        return _with_recipe(state, self.recipe)


@dataclass(frozen=True)
class ValidateBy:
    """Leave out other segments."""

    settings: ValidateSettings

    @property
    def label(self) -> str:
        return f"Validate by {self.settings.scheme}"

    def apply(self, state: State) -> State:
        return _with_recipe(state, changed(state.recipe, validate=self.settings))


@dataclass(frozen=True)
class ModelBy:
    """Use another engine, or another way with gaps."""

    settings: ModelSettings

    @property
    def label(self) -> str:
        return f"Engine {self.settings.engine}, gaps {self.settings.gaps}"

    def apply(self, state: State) -> State:
        return _with_recipe(state, changed(state.recipe, model=self.settings))


@dataclass(frozen=True)
class EvidenceBy:
    """Another share of variance to reach, for one of the lines of evidence."""

    share: float

    @property
    def label(self) -> str:
        return f"Ask for {100 * self.share:g} % of the variance"

    def apply(self, state: State) -> State:
        evidence = changed(state.recipe.evidence, share=self.share)
        return _with_recipe(state, changed(state.recipe, evidence=evidence))


@dataclass(frozen=True)
class LimitBy:
    """Other levels or methods of the limits."""

    settings: LimitSettings

    @property
    def label(self) -> str:
        return f"Limits at {100 * self.settings.level:g} %"

    def apply(self, state: State) -> State:
        return _with_recipe(state, changed(state.recipe, limits=self.settings))


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
