"""Recipes: everything that turns data into a model, in the words of the recipe file."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from pathlib import Path
from typing import Any

from scutcher.core.recipes.recipe import Recipe as Settings
from scutcher.core.recipes.recipe import recipe_from_plain, recipe_to_plain
from scutcher.library.data import File


class Recipe:
    """Treatments, scaling, model and checks; a value that does not change.

    Parameters
    ----------
    treat : sequence of mappings
        Each names its `method` and its parameters, as `scutcher treatments` lists them.
    components : int, optional
        How many are kept.
    sections : mappings
        The other sections of a recipe file: `scale`, `model`, `limits`, `validate`, `evidence`, `groups`.

    Raises
    ------
    RecipeError
        A key or a method is not known (the nearest is named), or a value is out of its range.
    """

    def __init__(
        self,
        treat: Sequence[Mapping[str, Any]] = (),
        components: int | None = None,
        **sections: Mapping[str, Any],
    ) -> None:
        plain: dict[str, Any] = {"treat": [dict(step) for step in treat], **sections}
        if components is not None:
            plain["model"] = {**plain.get("model", {}), "components": components}
        self._settings = recipe_from_plain(plain)

    @classmethod
    def read(cls, file: File) -> Recipe:
        """The recipe of a TOML file."""
        from scutcher.files.recipe_toml import read_recipe

        return cls.of(read_recipe(Path(file)))

    @classmethod
    def of(cls, settings: Settings) -> Recipe:
        """The same as Scutcher's own settings."""
        made = cls()
        made._settings = settings
        return made

    @property
    def settings(self) -> Settings:
        """As the rest of Scutcher sees it."""
        return self._settings

    @property
    def plain(self) -> dict[str, Any]:
        """As plain data, which `Recipe(**plain)` reads back."""
        return recipe_to_plain(self._settings)

    def write(self, file: File) -> None:
        """Write it as TOML, which the window and the command line read."""
        from scutcher.files.recipe_toml import recipe_text
        from scutcher.files.safely import write_text

        write_text(Path(file), recipe_text(self._settings))

    def __eq__(self, other: object) -> bool:
        return isinstance(other, Recipe) and other.settings == self.settings

    def __hash__(self) -> int:
        return hash(self._settings)

    def __repr__(self) -> str:
        return f"Recipe(**{self.plain!r})"
