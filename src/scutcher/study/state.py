"""The document as one frozen value."""

from __future__ import annotations

from dataclasses import dataclass, field, fields

from scutcher.core.recipe import Recipe
from scutcher.core.table import Table


@dataclass(frozen=True, eq=False)
class State:
    """All that a study holds.

    Attributes
    ----------
    name : str
        What the study is called on screen.
    table : Table or None
        The data as brought in, with what is set aside; None before anything is.
    recipe : Recipe
        What turns them into the model.
    colour_by : str
        The class column that colours everything, or "" for none.
    """

    name: str = "untitled"
    table: Table | None = None
    recipe: Recipe = field(default_factory=Recipe)
    colour_by: str = ""


def changed_fields(before: State, after: State) -> frozenset[str]:
    """The fields that are different objects in the two states."""
    return frozenset(f.name for f in fields(State) if getattr(before, f.name) is not getattr(after, f.name))
