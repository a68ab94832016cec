"""Bins of equal width along the axis."""

from __future__ import annotations

from typing import Annotated, Literal

import numpy as np
from msgspec import Meta

from scutcher.core.arrays import Floats, Integers
from scutcher.core.data.bins import binned_table
from scutcher.core.data.table import Table
from scutcher.core.errors import RecipeError
from scutcher.core.treatments.base import Learned, Parameters, Treatment
from scutcher.core.words import shown


class BinEqualParameters(Parameters, frozen=True):
    """Width, and sum or mean."""

    width: Annotated[float, Meta(gt=0.0, description="width of a bin", extra={"unit": "axis"})] = 4.0
    by: Annotated[Literal["mean", "sum"], Meta(description="what a bin becomes")] = "mean"


def equal_starts(places: Floats, width: float) -> Integers:
    """First channel of each bin: bins of that width from the first channel on; empty ones are dropped."""
    away = np.abs(places - places[0])
    if width < np.diff(away).min(initial=np.inf):
        return np.arange(len(places))
    number = np.floor(away / width + 1e-9).astype(np.intp)
    starts: Integers = np.flatnonzero(np.diff(number, prepend=-1))
    return starts


def apply(table: Table, parameters: BinEqualParameters, learned: Learned) -> Table:
    """Treat a table; a gap makes a gap of its bin."""
    starts = equal_starts(table.axis.places(), parameters.width)
    if len(starts) < 2:
        raise RecipeError(
            f"Bins of {shown(parameters.width)} {table.axis.unit} put all channels into one.",
            "Choose a smaller width.",
        )
    return binned_table(table, starts, parameters.by)


def suggest(table: Table) -> BinEqualParameters:
    """Four channels wide."""
    places = table.axis.places()
    return BinEqualParameters(width=float(f"{4.0 * np.ptp(places) / max(len(places) - 1, 1):.3g}"))


TREATMENT = Treatment(
    key="bin-equal",
    name="Bins of equal width",
    family="channels",
    purpose="fewer channels, less noise, small shifts forgiven",
    help="Channels are put together in bins of a width in axis units, at their mean position.",
    source="Spraul et al., J. Pharm. Biomed. Anal. 12 (1994) 1215–1225",
    parameters=BinEqualParameters,
    apply=apply,
    needs=("ordered",),
    short=lambda p: f"width {shown(p.width)}, {p.by}",
    suggest=suggest,
)
