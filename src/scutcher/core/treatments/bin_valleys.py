"""Bins whose edges lie in the valleys of the mean spectrum."""

from __future__ import annotations

from bisect import bisect_left, bisect_right
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
    if 2.0 * width < np.diff(away).min(initial=np.inf):
        return np.arange(len(places))  # some edge is nearest to each channel
    starts, reach, turn, at = [0], (tolerance + 1e-9) * width, 1, away.tolist()
    while turn * width < at[-1] and starts[-1] + 1 < len(at):
        edge = turn * width
        first, last = bisect_left(at, edge - reach), bisect_right(at, edge + reach)
        if first == last:  # none within reach: the nearest
            first -= edge - at[first - 1] <= at[first] - edge
            last = first + 1
        lowest = int(first + mean[first:last].argmin())
        if lowest > starts[-1]:
            starts.append(lowest)
        if starts[-1] + 1 < len(at):  # edges that are not near the next channel change nothing
            here, following = at[starts[-1]], at[starts[-1] + 1]
            turn = max(turn + 1, int(min(following - reach, (here + following) / 2.0) / width))
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
