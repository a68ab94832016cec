"""Commands on the kind of a model."""

from __future__ import annotations

from dataclasses import replace

from scutcher.core.data.grid import grid_of
from scutcher.core.errors import InputError
from scutcher.core.frozen import frozen
from scutcher.study.document.changes import model_of, table_of, with_model
from scutcher.study.document.state import State

PLAIN, UNMIX, SMOOTH = "pca", "unmix", "maf"
"""Kinds of model: components by variance, amounts of shapes, components by smoothness over a picture."""


@frozen
class OrderBySmoothness:
    """Components of pixels in the order of their smoothness over the picture, or of their variance again."""

    on: bool

    def label(self, state: State) -> str:
        return f"Components by {'smoothness over the picture' if self.on else 'variance'}"

    def apply(self, state: State) -> State:
        kind = model_of(state).kind
        if kind == UNMIX:
            raise InputError(
                "This model finds amounts of shapes.", "Take the shapes off first, or put the model by."
            )
        if self.on and grid_of(table_of(state)) is None:
            raise InputError("The samples are no pixels of a picture.", "Bring in an image.")
        wanted = SMOOTH if self.on else PLAIN
        return state if kind == wanted else with_model(state, lambda model: replace(model, kind=wanted))
