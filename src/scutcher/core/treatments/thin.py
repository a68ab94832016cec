"""Every so many-th channel."""

from __future__ import annotations

from dataclasses import replace
from typing import Annotated

import numpy as np
from msgspec import Meta

from scutcher.core.data.table import Table
from scutcher.core.errors import RecipeError
from scutcher.core.treatments.base import Learned, Parameters, Treatment


class ThinParameters(Parameters, frozen=True):
    """Which channels stay."""

    every: Annotated[
        int,
        Meta(
            ge=2,
            le=1000,
            description="one channel of so many stays",
            extra={"unit": "channels", "slider": (2, 20)},
        ),
    ] = 2


def apply(table: Table, parameters: ThinParameters, learned: Learned) -> Table:
    """Treat a table; gaps stay gaps."""
    kept = np.arange(0, table.shape[1], parameters.every)
    if len(kept) < 2:
        raise RecipeError(
            f"One channel of {parameters.every} leaves {len(kept)} of {table.shape[1]}; a model needs 2.",
            f"Choose at most {table.shape[1] - 1}.",
        )
    values = np.ascontiguousarray(table.values[:, kept])
    return replace(table, values=values, axis=table.axis.take(kept))


TREATMENT = Treatment(
    key="thin",
    name="Thin",
    family="channels",
    purpose="fewer channels, where neighbours say the same",
    help="Keeps the first channel and every so many-th after it. Smooth first, or use bins: the others' "
    "information is lost.",
    source="Næs, Isaksson, Fearn & Davies, A User-Friendly Guide, NIR Publications (2002)",
    parameters=ThinParameters,
    apply=apply,
    short=lambda p: f"1 of {p.every}",
)
