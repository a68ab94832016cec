"""The recipe that data open with, before anybody has chosen anything."""

from __future__ import annotations

from scutcher.core.data.grid import grid_of
from scutcher.core.data.table import Table
from scutcher.core.recipes.recipe import Recipe, ValidateSettings


def first_recipe(table: Table) -> Recipe:
    """No treatments; of pixels whole squares are left out together, since neighbours are alike."""
    if grid_of(table) is not None:
        return Recipe(validate=ValidateSettings(scheme="tiles"))
    return Recipe()
