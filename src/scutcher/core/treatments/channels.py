"""Channels kept or left out by region."""

from __future__ import annotations

from dataclasses import replace
from typing import Annotated, Literal

import numpy as np
from msgspec import Meta

from scutcher.core.data.regions import Regions, inside, regions_text
from scutcher.core.data.table import Table
from scutcher.core.errors import RecipeError
from scutcher.core.treatments.base import Learned, Parameters, Treatment


class ChannelsParameters(Parameters, frozen=True):
    """Which regions, and what happens to them."""

    mode: Annotated[Literal["keep", "leave-out"], Meta(description="what is done with the regions")] = "keep"
    regions: Annotated[Regions, Meta(description="none: nothing is left out", extra={"unit": "axis"})] = ()


def apply(table: Table, parameters: ChannelsParameters, learned: Learned) -> Table:
    """Treat a table; gaps stay gaps."""
    if not parameters.regions:
        return table
    within = inside(table.axis, parameters.regions)
    kept = np.flatnonzero(within if parameters.mode == "keep" else ~within)
    if len(kept) < 2:
        raise RecipeError(
            f"{len(kept)} of {table.shape[1]} channels would be kept; a model needs at least 2.",
            "Change the regions.",
        )
    values = np.ascontiguousarray(table.values[:, kept])
    return replace(table, values=values, axis=table.axis.take(kept))


TREATMENT = Treatment(
    key="channels",
    name="Channels kept",
    family="channels",
    purpose="keeps or leaves out regions of the axis: noise, saturation, water",
    help="Drag regions on the picture. What is left out is seen by nothing after this step.",
    source="Rinnan, van den Berg & Engelsen, Trends Anal. Chem. 28 (2009) 1201–1222",
    parameters=ChannelsParameters,
    apply=apply,
    short=lambda p: (
        f"{'keep' if p.mode == 'keep' else 'without'} {regions_text(p.regions)}" if p.regions else "all"
    ),
)
