"""Recipes as TOML text."""

from __future__ import annotations

import tomllib
from pathlib import Path

from scutcher.core.errors import InputError, RecipeError
from scutcher.core.recipes.recipe import Recipe, recipe_from_plain, recipe_to_plain
from scutcher.files.safely import reading


def read_recipe(path: Path) -> Recipe:
    """Read a recipe file.

    Raises
    ------
    FileError
        It cannot be read.
    RecipeError
        It is not TOML, or a key or value in it is not known.
    """
    with reading(path):
        raw = path.read_bytes()
    try:
        return recipe_from_plain(tomllib.loads(raw.decode("utf-8-sig")))
    except (tomllib.TOMLDecodeError, UnicodeDecodeError) as error:
        raise RecipeError(f"{path.name} is not a TOML recipe: {error}.", "Correct that line.") from error
    except InputError as error:
        raise type(error)(f"{path.name}: {error.problem}", error.remedy) from error


def recipe_text(recipe: Recipe) -> str:
    """A recipe as TOML; reads back to the same recipe."""
    import tomli_w

    return tomli_w.dumps(recipe_to_plain(recipe))
