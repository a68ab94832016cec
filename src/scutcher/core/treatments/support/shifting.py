"""What alignments share: how far a spectrum may move, and the move that drops the outermost channels."""

from __future__ import annotations

from dataclasses import replace
from typing import Annotated

import numpy as np
from msgspec import Meta

from scutcher.core.arrays import Floats
from scutcher.core.data.interpolation import shifted
from scutcher.core.data.table import Table
from scutcher.core.errors import RecipeError

MostShift = Annotated[
    int,
    Meta(
        ge=1,
        le=500,
        description="largest shift; so many channels are dropped at each end",
        extra={"unit": "channels", "slider": (1, 30)},
    ),
]


def check_room(table: Table, most: int) -> None:
    """Refuse a largest shift that leaves no channels.

    Raises
    ------
    RecipeError
    """
    if table.shape[1] <= 2 * most + 1:
        raise RecipeError(
            f"A largest shift of {most} channels leaves nothing of {table.shape[1]}.",
            "Choose a smaller one.",
        )


def moved(table: Table, shifts: Floats, most: int) -> Table:
    """Each spectrum back by its shift, (n,) in channels, without `most` channels at each end."""
    kept = np.arange(most, table.shape[1] - most)
    return replace(table, values=shifted(table.values, shifts, most), axis=table.axis.take(kept))
