"""The registry of treatments: the folder itself, one file each."""

from __future__ import annotations

import importlib
import pkgutil
from functools import cache

from scutcher.core.known_names import declared_as
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
    return declared_as(key, all_treatments(), "treatment", "; `scutcher treatments` lists all")
