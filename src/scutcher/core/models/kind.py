"""What a kind of model declares: settings, how it is fitted, projected, validated, judged and stored."""

from __future__ import annotations

import importlib
import pkgutil
from collections.abc import Callable, Mapping
from functools import cache
from typing import Any, Literal

import msgspec

from scutcher.core.arrays import Floats
from scutcher.core.data.table import Table
from scutcher.core.frozen import frozen
from scutcher.core.known_names import declared_as
from scutcher.core.progress import Watch
from scutcher.core.recipes.recipe import Recipe
from scutcher.core.scaling.scaled_matrix import Scaled
from scutcher.core.scaling.scaler import Scaler

Gives = Literal["scores", "loadings", "distances", "amounts", "shares"]
"""What a fitted model has to show; pages ask for these, not for a kind."""


@frozen(eq=False)
class Prepared:
    """What a model is fitted to.

    Attributes
    ----------
    treated : Table
        The training samples after the last treatment, with their classes and properties.
    scaler : Scaler
    scaled : Scaled
        Z, (n, p): treated, centred and scaled.
    """

    treated: Table
    scaler: Scaler
    scaled: Scaled


@frozen
class ModelKind:
    """One kind of model, as the study, the pages, the command line and the guide read it.

    Attributes
    ----------
    key : str
        The name in recipes and study files; never renamed.
    name, purpose : str
        On screen, and what it is for.
    settings : type of struct
        Its settings, each with range, default and help.
    gives : set
        What a fitted model has to show.
    fit : (Prepared, Recipe, Watch or None) → fitted
        Raises an InputError where the data do not allow it.
    short : fitted → str
        The words on the trail: `4 components`.
    project : (fitted, (m, p) rows of Z) → dict of what it gives → (m, …) array
    distances : fitted → dict of name → (n,) array
        Of the training samples.
    validate : (training table before treatment, Recipe, fitted, Watch or None) → held-out figures
        Everything that is learned from the set is learned again without the samples left out.
    evidence : (fitted, Prepared, Recipe) → dict of key → line
        On the size of the model, with what needs no further fits.
    to_plain, from_plain
        A fitted model as plain data, and back.
    """

    key: str
    name: str
    purpose: str
    settings: type[msgspec.Struct]
    gives: frozenset[Gives]
    fit: Callable[[Prepared, Recipe, Watch | None], Any]
    short: Callable[[Any], str]
    project: Callable[[Any, Floats], Mapping[str, Floats]]
    distances: Callable[[Any], Mapping[str, Floats]]
    validate: Callable[[Table, Recipe, Any, Watch | None], Any]
    evidence: Callable[[Any, Prepared, Recipe], Mapping[str, Any]]
    to_plain: Callable[[Any], dict[str, Any]]
    from_plain: Callable[[Mapping[str, Any]], Any]


@cache
def all_kinds() -> dict[str, ModelKind]:
    """Every kind of model by key: each folder of `core.models` whose file `kind` declares a KIND."""
    declared = [_declared_in(folder) for folder in _folders()]
    return {kind.key: kind for kind in declared}


def _folders() -> list[str]:
    import scutcher.core.models as models

    return [module.name for module in pkgutil.iter_modules(models.__path__) if module.ispkg]


_first_folders = cache(_folders)
"""Those that were there at first: `kind_of` is asked all the time, and the disk only once."""


def _declared_in(folder: str) -> ModelKind:
    kind: ModelKind = importlib.import_module(f"scutcher.core.models.{folder}.kind").KIND
    return kind


def kind_of(key: str) -> ModelKind:
    """The kind of that key.

    Raises
    ------
    RecipeError
        There is none; the message names the nearest.
    """
    if key in _first_folders():  # the others are not read for it: that takes some frames
        own = _declared_in(key)
        if own.key == key:
            return own
    return declared_as(key, all_kinds(), "kind of model")
