"""Scutcher: treat, model and inspect stacked spectra and instrument signals.

In a notebook:

    import scutcher as sc

    lots = sc.read("lots.csv", classes=["retting"])
    model = sc.fit(lots, sc.Recipe(treat=[{"method": "snv"}], components=4))
    model.scores                          # a pandas frame
    model.figure("scores")                # a matplotlib figure
    model.project(sc.read("new.csv")).distances
"""

from __future__ import annotations

from typing import TYPE_CHECKING

__version__ = "0.1.0"

if TYPE_CHECKING:
    from scutcher.core.errors import InputError
    from scutcher.library.data import Data, example, from_frame, read
    from scutcher.library.model import Model, SavedModel, fit, load
    from scutcher.library.projection import Projection
    from scutcher.library.recipes import Recipe

__all__ = [
    "Data",
    "InputError",
    "Model",
    "Projection",
    "Recipe",
    "SavedModel",
    "__version__",
    "example",
    "fit",
    "from_frame",
    "load",
    "read",
]

_PLACES = {
    "Data": "scutcher.library.data",
    "InputError": "scutcher.core.errors",
    "Model": "scutcher.library.model",
    "Projection": "scutcher.library.projection",
    "Recipe": "scutcher.library.recipes",
    "SavedModel": "scutcher.library.model",
    "example": "scutcher.library.data",
    "fit": "scutcher.library.model",
    "from_frame": "scutcher.library.data",
    "load": "scutcher.library.model",
    "read": "scutcher.library.data",
}
"""Where each name lives: brought in when it is first asked for, so that the version is told at once."""


def __getattr__(name: str) -> object:
    """A name of the library (PEP 562)."""
    from importlib import import_module

    if name not in _PLACES:
        raise AttributeError(f"module 'scutcher' has no attribute {name!r}")
    return vars(import_module(_PLACES[name]))[name]


def __dir__() -> list[str]:
    return __all__
