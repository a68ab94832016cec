"""Commands on the shelf: models put by, renamed, taken away."""

from __future__ import annotations

from dataclasses import dataclass, replace

from scutcher.core.errors import InputError
from scutcher.study.document.state import Shelved, State


@dataclass(frozen=True, eq=False)
class PutBy:
    """Put a model on the shelf; a name that is taken gets a number."""

    model: Shelved

    @property
    def label(self) -> str:
        return f"Put {self.model.name} on the shelf"

    def apply(self, state: State) -> State:
        name = free_name(state, self.model.name)
        return replace(state, shelf=(*state.shelf, replace(self.model, name=name)))


@dataclass(frozen=True)
class RenameShelved:
    """Call a model on the shelf something else."""

    place: int
    name: str

    @property
    def label(self) -> str:
        return f"Call the model {self.name.strip()}"

    def apply(self, state: State) -> State:
        shelf, name = _shelf(state, self.place), self.name.strip()
        if not name:
            raise InputError("The model has no name.", "Type one; nothing was changed.")
        if name == shelf[self.place].name:
            return state
        shelf[self.place] = replace(shelf[self.place], name=free_name(state, name))
        return replace(state, shelf=tuple(shelf))


@dataclass(frozen=True)
class TakeFromShelf:
    """Take a model off the shelf."""

    place: int

    @property
    def label(self) -> str:
        return f"Take model {self.place + 1} off the shelf"

    def apply(self, state: State) -> State:
        shelf = _shelf(state, self.place)
        del shelf[self.place]
        return replace(state, shelf=tuple(shelf))


def free_name(state: State, name: str) -> str:
    """The name, with a number after it where it is taken."""
    taken, number, found = {model.name for model in state.shelf}, 2, name
    while found in taken:
        found, number = f"{name} ({number})", number + 1
    return found


def _shelf(state: State, place: int) -> list[Shelved]:
    shelf = list(state.shelf)
    if not 0 <= place < len(shelf):
        raise InputError(
            f"There is no model {place + 1} on the shelf; it holds {len(shelf)}.", "Nothing was changed."
        )
    return shelf
