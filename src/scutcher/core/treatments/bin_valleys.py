"""Bins whose edges lie in the valleys of the mean spectrum."""

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


class BinValleysParameters(Parameters, frozen=True):
    """Width, how far an edge may move, sum or mean."""

    width: Annotated[float, Meta(gt=0.0, description="nominal width of a bin", extra={"unit": "axis"})] = 8.0
    tolerance: Annotated[
        float, Meta(ge=0.0, le=0.5, description="share of the width that an edge may move to a valley")
    ] = 0.5
    by: Annotated[Literal["sum", "mean"], Meta(description="what a bin becomes")] = "sum"


def valley_starts(mean: Floats, places: Floats, width: float, tolerance: float) -> Integers:
    """First channel of each bin: each nominal edge moved to the lowest channel of the mean in its reach.

    References
    ----------
    Sousa, Magalhães & Castro Ferreira, Chemometr. Intell. Lab. Syst. 122 (2013) 93–102.
    """
    away = np.abs(places - places[0])
    starts = [0]
    for edge in np.arange(width, away[-1], width):
        near = np.flatnonzero(np.abs(away - edge) <= tolerance * width + 1e-9 * width)
        if not near.size:
            near = np.array([int(np.abs(away - edge).argmin())])
        lowest = int(near[mean[near].argmin()])
        if lowest > starts[-1]:
            starts.append(lowest)
    return np.array(starts, dtype=np.intp)


def fit(table: Table, parameters: BinValleysParameters) -> Learned:
    """The first channel of each bin."""
    starts = valley_starts(
        table.values.mean(axis=0), table.axis.places(), parameters.width, parameters.tolerance
    )
    if len(starts) < 2:
        raise RecipeError(
            f"Bins of {shown(parameters.width)} {table.axis.unit} put all channels into one.",
            "Choose a smaller width.",
        )
    return {"starts": starts.astype(float)}


def apply(table: Table, parameters: BinValleysParameters, learned: Learned) -> Table:
    """Treat a table."""
    assert learned is not None
    return binned_table(table, learned["starts"].astype(np.intp), parameters.by)


def suggest(table: Table) -> BinValleysParameters:
    """Eight channels wide."""
    places = table.axis.places()
    return BinValleysParameters(width=float(f"{8.0 * np.ptp(places) / max(len(places) - 1, 1):.3g}"))


TREATMENT = Treatment(
    key="bin-valleys",
    name="Bins between valleys",
    family="channels",
    purpose="fewer channels, with peaks kept whole inside a bin",
    help="Edges move to the lowest place of the mean spectrum within their tolerance, so that a peak is not "
    "cut in two by a small shift.",
    source="Sousa, Magalhães & Castro Ferreira, Chemometr. Intell. Lab. Syst. 122 (2013) 93–102",
    parameters=BinValleysParameters,
    apply=apply,
    fit=fit,
    needs=("ordered", "no-gaps"),
    short=lambda p: f"width {shown(p.width)} ± {shown(100 * p.tolerance)} %",
    suggest=suggest,
)
