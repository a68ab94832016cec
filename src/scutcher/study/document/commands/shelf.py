"""Commands on the models of a study: put the current one by, open another, rename, take away."""

from __future__ import annotations

from dataclasses import replace

from scutcher.core.errors import InputError
from scutcher.core.frozen import frozen
from scutcher.core.recipes.recipe import Recipe
from scutcher.study.document.changes import model_of
from scutcher.study.document.parts import Model, Reached
from scutcher.study.document.state import State


@frozen(eq=False)
class PutBy:
    """Put a copy of the current model on the shelf; a name that is taken gets a number.

    Attributes
    ----------
    name : str
    reached : Reached
        Its figures and its score plane.
    recipe : Recipe or None
        Another recipe for the same data; None for that of the current model.
    """

    name: str
    reached: Reached
    recipe: Recipe | None = None

    def label(self, state: State) -> str:
        return f"Put {free_name(state, self.name)} on the shelf"

    def apply(self, state: State) -> State:
        made, current = state.made + 1, model_of(state)
        copy = replace(
            current,
            id=f"m{made}",
            name=free_name(state, self.name),
            recipe=self.recipe or current.recipe,
            reached=self.reached,
        )
        return replace(state, models=(*state.models, copy), made=made)


@frozen(eq=False)
class OpenModel:
    """Look at another model of the study; the one of now goes to the shelf, unless it stands there already.

    Attributes
    ----------
    id : str
        Of the model to open.
    name : str
        What the model of now is called on the shelf, where it has no name yet.
    reached : Reached or None
        What it has reached.
    """

    id: str
    name: str
    reached: Reached | None = None

    def label(self, state: State) -> str:
        return f"Open the model {_named(state, self.id).name or 'without a name'}"

    def apply(self, state: State) -> State:
        opened, now = _named(state, self.id), model_of(state)
        if opened is now:
            return state
        models = tuple(model for model in state.models if model is not now)
        if not any(model.same_inputs(now) for model in models):
            name = now.name or free_name(state, self.name)
            kept = replace(now, name=name, reached=self.reached or now.reached)
            models = tuple(kept if model is now else model for model in state.models)
        table = state.dataset_of(opened).table
        known = state.colour_by in table.column_names | {"", "run order"}
        colour_by = state.colour_by if known else _first(opened, state)
        return replace(state, models=models, current=opened.id, colour_by=colour_by)


@frozen
class RenameModel:
    """Call a model something else."""

    id: str
    name: str

    def label(self, state: State) -> str:
        return f"Rename the model {_named(state, self.id).name} to {self.name.strip()}"

    def apply(self, state: State) -> State:
        model, name = _named(state, self.id), self.name.strip()
        if not name:
            raise InputError("The model has no name.", "Type one; nothing was changed.")
        if name == model.name:
            return state
        renamed = replace(model, name=free_name(state, name))
        return replace(
            state,
            models=tuple(renamed if old is model else old for old in state.models),
            together=tuple(
                replace(old, model=renamed) if old.model is model else old for old in state.together
            ),
        )


@frozen
class RemoveModel:
    """Take a model off the shelf; its data set goes with it where no other model needs it."""

    id: str

    def label(self, state: State) -> str:
        return f"Take the model {_named(state, self.id).name} off the shelf"

    def apply(self, state: State) -> State:
        model = _named(state, self.id)
        if model.id == state.current:
            raise InputError("This model is being looked at.", "Open another one first; nothing was changed.")
        after = replace(
            state,
            models=tuple(old for old in state.models if old is not model),
            together=tuple(old for old in state.together if old.model is not model),
        )
        return replace(after, datasets=tuple(data for data in state.datasets if data.id in after.needed))


def free_name(state: State, name: str) -> str:
    """The name, with a number after it where it is taken."""
    taken, number, found = {model.name for model in state.named}, 2, name
    while found in taken:
        found, number = f"{name} ({number})", number + 1
    return found


def _named(state: State, ident: str) -> Model:
    every = (*state.models, *(one.model for one in state.together))
    found = next((model for model in every if model.id == ident), None)
    if found is None:
        raise InputError("This model is not in the study any more.", "Nothing was changed.")
    return found


def _first(model: Model, state: State) -> str:
    classes = state.dataset_of(model).table.classes
    return classes[0].name if classes else ""
