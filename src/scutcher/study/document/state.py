"""The document as one frozen value."""

from __future__ import annotations

from dataclasses import dataclass, field, fields

from scutcher.core.arrays import Floats, Integers
from scutcher.core.data.table import Table
from scutcher.core.recipes.recipe import Recipe


@dataclass(frozen=True)
class Source:
    """Where the data came from, and which role each column was given: so that it can be read again.

    Attributes
    ----------
    paths : tuple of str
        Absolute; empty where the data did not come from files.
    roles : tuple of (column, role)
        Roles that a person gave; the others were guessed.
    sheet : str
        Of a workbook, or the matrix of a file; "" for the first that suits.
    resampled : bool
        Whether different axes were brought onto their common channels.
    transposed : bool
        Whether samples stand in the columns of the file.
    mends : tuple of str
        What was mended in reading, where it would have been refused: keys of `MENDS`.
    """

    paths: tuple[str, ...] = ()
    roles: tuple[tuple[str, str], ...] = ()
    sheet: str = ""
    resampled: bool = False
    transposed: bool = False
    mends: tuple[str, ...] = ()


NOWHERE = Source()


@dataclass(frozen=True, eq=False)
class Shelved:
    """A model that was put by.

    Attributes
    ----------
    name : str
    recipe : Recipe
        With its number of components.
    figures : tuple of (name, value)
        What it reached when it was put by: samples, variables, R², Q² and so on.
    scores : (n, 2) float array
        Its score plane, for a small picture; one column where only one component was kept.
    codes : (n,) int array
        The class of each of these samples then, −1 for none.
    """

    name: str
    recipe: Recipe
    figures: tuple[tuple[str, float], ...]
    scores: Floats
    codes: Integers

    def figure(self, key: str) -> float | None:
        """One of its figures."""
        return dict(self.figures).get(key)


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
    source : Source
        The files that the table came from.
    shelf : tuple of Shelved
        Models put by, the newest last.
    """

    name: str = "untitled"
    table: Table | None = None
    recipe: Recipe = field(default_factory=Recipe)
    colour_by: str = ""
    source: Source = NOWHERE
    shelf: tuple[Shelved, ...] = ()


def changed_fields(before: State, after: State) -> frozenset[str]:
    """The fields that are different objects in the two states."""
    return frozenset(f.name for f in fields(State) if getattr(before, f.name) is not getattr(after, f.name))
