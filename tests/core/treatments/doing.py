"""How tests run one treatment by name."""

from __future__ import annotations

import numpy as np

from scutcher.core.data.table import Table
from scutcher.core.recipes.chain import run_step
from scutcher.core.recipes.recipe import recipe_from_plain


def treated(table: Table, method: str, **parameters: object) -> Table:
    """The table after one treatment, its parameters given as in a recipe."""
    recipe = recipe_from_plain({"treat": [{"method": method, **parameters}]})
    return run_step(table, recipe.treat[0]).table


def values(table: Table, method: str, **parameters: object) -> np.ndarray:
    """The values after one treatment."""
    return treated(table, method, **parameters).values
