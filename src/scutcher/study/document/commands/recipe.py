"""Commands on the recipe: treatments, scaling, the number of components, validation, limits."""

from __future__ import annotations

from collections.abc import Iterator

import msgspec
from msgspec.structs import replace as changed

from scutcher.core.errors import RecipeError
from scutcher.core.frozen import frozen
from scutcher.core.recipes.recipe import (
    GroupSettings,
    LimitSettings,
    ModelSettings,
    Recipe,
    ScaleSettings,
    Step,
    ValidateSettings,
)
from scutcher.core.treatments import treatment
from scutcher.core.treatments.base import Parameters
from scutcher.core.words import count_of
from scutcher.study.document.changes import with_recipe
from scutcher.study.document.state import State


def with_components(recipe: Recipe, k: int) -> Recipe:
    """The recipe with k components kept."""
    return changed(recipe, model=changed(recipe.model, components=k))


@frozen
class KeepComponents:
    """Keep k components."""

    k: int

    def label(self, state: State) -> str:
        before = state.recipe.model.components
        if before in (None, self.k):
            return f"Keep {count_of(self.k, 'component')}"
        return f"Keep {before} → {count_of(self.k, 'component')}"

    def apply(self, state: State) -> State:
        if self.k < 1:
            raise RecipeError(f"{self.k} components were asked for.", "Keep at least 1; nothing was changed.")
        return with_recipe(state, with_components(state.recipe, self.k))


@frozen
class SwitchStep:
    """Switch the treatment at a place of the chain on or off."""

    place: int
    on: bool

    def label(self, state: State) -> str:
        return f"Switch {_called(state, self.place)} {'on' if self.on else 'off'}"

    def apply(self, state: State) -> State:
        steps = _steps(state, self.place)
        steps[self.place] = changed(steps[self.place], on=self.on)
        return with_recipe(state, changed(state.recipe, treat=tuple(steps)))


@frozen
class ScaleBy:
    """Centre and scale in another way."""

    settings: ScaleSettings

    def label(self, state: State) -> str:
        ordered = state.table is not None and state.table.axis.ordered
        return "Scaling: " + from_to(state.recipe.scaling_for(ordered), self.settings)

    def apply(self, state: State) -> State:
        return with_recipe(state, changed(state.recipe, scale=self.settings))


@frozen
class AddStep:
    """Put a treatment into the chain, at the end or at a place; without parameters, with its defaults."""

    method: str
    parameters: Parameters | None = None
    place: int | None = None

    def label(self, state: State) -> str:
        where = "" if self.place is None else f" as treatment {self.place + 1}"
        return f"Add {treatment(self.method).name}{where}"

    def apply(self, state: State) -> State:
        step = Step(self.method, self.parameters or treatment(self.method).parameters())
        _check_belong(step, step.parameters)
        steps = list(state.recipe.treat)
        steps.insert(len(steps) if self.place is None else self.place, step)
        return with_recipe(state, changed(state.recipe, treat=tuple(steps)))


@frozen
class ChangeStep:
    """Give the treatment at a place other parameters; they must be of its kind."""

    place: int
    parameters: Parameters

    def label(self, state: State) -> str:
        before = _steps(state, self.place)[self.place].parameters
        return f"{_called(state, self.place)}: {from_to(before, self.parameters)}"

    def apply(self, state: State) -> State:
        steps = _steps(state, self.place)
        _check_belong(steps[self.place], self.parameters)
        steps[self.place] = changed(steps[self.place], parameters=self.parameters)
        return with_recipe(state, changed(state.recipe, treat=tuple(steps)))


@frozen
class MoveStep:
    """Move the treatment at a place to another place of the chain."""

    place: int
    to: int

    def label(self, state: State) -> str:
        return f"Move {_called(state, self.place)} from place {self.place + 1} to {self.to + 1}"

    def apply(self, state: State) -> State:
        steps = _steps(state, self.place)
        step = steps.pop(self.place)
        steps.insert(max(0, min(self.to, len(steps))), step)
        return with_recipe(state, changed(state.recipe, treat=tuple(steps)))


@frozen
class DuplicateStep:
    """Put the treatment at a place a second time after itself."""

    place: int

    def label(self, state: State) -> str:
        return f"Duplicate {_called(state, self.place)}"

    def apply(self, state: State) -> State:
        steps = _steps(state, self.place)
        steps.insert(self.place + 1, steps[self.place])
        return with_recipe(state, changed(state.recipe, treat=tuple(steps)))


@frozen
class UseRecipe:
    """Take another recipe: from a file, from the shelf, from what was tried."""

    recipe: Recipe
    whence: str

    def label(self, state: State) -> str:
        return f"Use the recipe of {self.whence}"

    def apply(self, state: State) -> State:
        return with_recipe(state, self.recipe)


@frozen
class ValidateBy:
    """Leave out other segments."""

    settings: ValidateSettings

    def label(self, state: State) -> str:
        return "Validation: " + from_to(state.recipe.validate, self.settings)

    def apply(self, state: State) -> State:
        return with_recipe(state, changed(state.recipe, validate=self.settings))


@frozen
class ModelBy:
    """Use another engine, or another way with gaps."""

    settings: ModelSettings

    def label(self, state: State) -> str:
        return "Model: " + from_to(state.recipe.model, self.settings)

    def apply(self, state: State) -> State:
        return with_recipe(state, changed(state.recipe, model=self.settings))


@frozen
class EvidenceBy:
    """Another share of variance to reach, for one of the lines of evidence."""

    share: float

    def label(self, state: State) -> str:
        return f"Share of variance to reach: {100 * state.recipe.evidence.share:g} → {100 * self.share:g} %"

    def apply(self, state: State) -> State:
        evidence = changed(state.recipe.evidence, share=self.share)
        return with_recipe(state, changed(state.recipe, evidence=evidence))


@frozen
class LimitBy:
    """Other levels or methods of the limits."""

    settings: LimitSettings

    def label(self, state: State) -> str:
        return "Limits: " + from_to(state.recipe.limits, self.settings)

    def apply(self, state: State) -> State:
        return with_recipe(state, changed(state.recipe, limits=self.settings))


@frozen
class GroupBy:
    """Another way of telling classes apart."""

    settings: GroupSettings

    def label(self, state: State) -> str:
        return "Groups: " + from_to(state.recipe.groups, self.settings)

    def apply(self, state: State) -> State:
        return with_recipe(state, changed(state.recipe, groups=self.settings))


@frozen
class RemoveStep:
    """Take the treatment at a place off the chain."""

    place: int

    def label(self, state: State) -> str:
        return f"Remove {_called(state, self.place)}"

    def apply(self, state: State) -> State:
        steps = _steps(state, self.place)
        del steps[self.place]
        return with_recipe(state, changed(state.recipe, treat=tuple(steps)))


def _steps(state: State, place: int) -> list[Step]:
    """The steps of a chain that has one at this place."""
    steps = list(state.recipe.treat)
    if not 0 <= place < len(steps):
        raise RecipeError(
            f"There is no treatment {place + 1}; the chain has {len(steps)}.", "Nothing was changed."
        )
    return steps


def _called(state: State, place: int) -> str:
    """The name of the treatment at a place, with the place where several have the name."""
    steps = _steps(state, place)
    name = steps[place].treatment.name
    alone = sum(step.method == steps[place].method for step in steps) == 1
    return name if alone else f"{name} (treatment {place + 1})"


def _check_belong(step: Step, parameters: Parameters) -> None:
    """Refuse parameters of another treatment than the one they are given to."""
    declared = step.treatment
    if type(parameters) is not declared.parameters:
        raise RecipeError(
            f"{type(parameters).__name__} are not settings of {declared.name}.", "Nothing was changed."
        )


def from_to(before: msgspec.Struct, after: msgspec.Struct) -> str:
    """What differs: `window 15 → 21, degree 2 → 3`."""
    words = list(_differences(before, after))
    return ", ".join(words) or "as before"


def _differences(before: msgspec.Struct, after: msgspec.Struct) -> Iterator[str]:
    old, new = msgspec.to_builtins(before), msgspec.to_builtins(after)
    for name, value in new.items():
        if old.get(name) != value:
            yield f"{name.replace('_', ' ')} {_shown(old.get(name))} → {_shown(value)}"


def _shown(value: object) -> str:
    """A value of a setting in words."""
    if isinstance(value, float):
        return f"{value:.6g}"
    if isinstance(value, bool):
        return "on" if value else "off"
    if isinstance(value, (list, tuple)):
        parts = [
            "–".join(map(_shown, part)) if isinstance(part, (list, tuple)) else _shown(part) for part in value
        ]
        return ", ".join(parts) or "none"
    return "none" if value in (None, "") else str(value)
