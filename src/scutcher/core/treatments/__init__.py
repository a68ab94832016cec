"""The registry of treatments: the folder itself, one file each."""

from __future__ import annotations

import importlib.util
import pkgutil
from functools import cache

from scutcher.core.known_names import declared_as
from scutcher.core.treatments.base import Treatment


@cache
def all_treatments() -> dict[str, Treatment]:
    """Every treatment by key, in alphabetical order of the files."""
    files = (_in_file(module.name) for module in pkgutil.iter_modules(__path__))
    return {found.key: found for found in files if found is not None}


def _in_file(name: str) -> Treatment | None:
    return getattr(importlib.import_module(f"{__name__}.{name}"), "TREATMENT", None)


@cache
def treatment(key: str) -> Treatment:
    """The treatment of that key; the others are not read when it is in the file of its name.

    Raises
    ------
    RecipeError
        There is none; the message names the nearest.
    """
    file = key.replace("-", "_")
    if file.isidentifier() and importlib.util.find_spec(f"{__name__}.{file}") is not None:
        found = _in_file(file)
        if found is not None and found.key == key:
            return found
    return declared_as(key, all_treatments(), "treatment", "; the guide has a list of all")
