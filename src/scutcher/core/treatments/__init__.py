"""The registry of treatments: the folder itself, one file each."""

from __future__ import annotations

import importlib
import pkgutil
from difflib import get_close_matches
from functools import cache

from scutcher.core.errors import RecipeError
from scutcher.core.treatments.base import Treatment


@cache
def all_treatments() -> dict[str, Treatment]:
    """Every treatment by key, in alphabetical order of the files."""
    found = {}
    for module in pkgutil.iter_modules(__path__):
        if module.name != "base" and not module.ispkg:
            treatment: Treatment = importlib.import_module(f"{__name__}.{module.name}").TREATMENT
            found[treatment.key] = treatment
    return found


def treatment(key: str) -> Treatment:
    """The treatment of that key.

    Raises
    ------
    RecipeError
        There is none; the message names the nearest.
    """
    known = all_treatments()
    if key in known:
        return known[key]
    near = get_close_matches(key, known, n=1, cutoff=0.0)
    raise RecipeError(
        f"There is no treatment {key!r}.",
        f"The nearest name is {near[0]!r}; `scutcher treatments` lists all.",
    )
