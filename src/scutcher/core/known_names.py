"""Looking up what declares itself by a key."""

from __future__ import annotations

from collections.abc import Iterable, Mapping
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
    raise RecipeError(f"There is no {what} {key!r}.", f"The nearest name is {nearest(key, known)!r}{more}.")


def nearest(name: str, known: Iterable[str]) -> str | None:
    """The known name that a wrong one is most like; None where none is known."""
    from difflib import get_close_matches

    near = get_close_matches(name, tuple(known), n=1, cutoff=0.0)
    return near[0] if near else None
