"""Looking up what declares itself by a key."""

from __future__ import annotations

from collections.abc import Mapping
from difflib import get_close_matches
from typing import TypeVar

from scutcher.core.errors import RecipeError

Declared = TypeVar("Declared")


def declared_as(key: str, known: Mapping[str, Declared], what: str, more: str = "") -> Declared:
    """The declaration of a key.

    Parameters
    ----------
    what : what is looked for, in a message
    more : where all of them are listed

    Raises
    ------
    RecipeError
        There is none; the message names the nearest.
    """
    if key in known:
        return known[key]
    near = get_close_matches(key, known, n=1, cutoff=0.0)
    raise RecipeError(f"There is no {what} {key!r}.", f"The nearest name is {near[0]!r}{more}.")
