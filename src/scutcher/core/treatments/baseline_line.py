"""A straight baseline through two regions."""

from __future__ import annotations

from typing import Annotated

import numpy as np
from msgspec import Meta

from scutcher.core.arrays import Floats
from scutcher.core.data.regions import Regions, inside
from scutcher.core.data.table import Table
from scutcher.core.errors import RecipeError
from scutcher.core.treatments.base import Parameters, Treatment, subtracting, taken_off


class BaselineLineParameters(Parameters, frozen=True):
    """The two regions."""

    regions: Annotated[
        Regions,
        Meta(
            description="two regions that the line goes through; none: the two ends", extra={"unit": "axis"}
        ),
    ] = ()


def baselines(table: Table, parameters: BaselineLineParameters) -> Floats:
    """The line through the means of the two regions, (n, p), in the unit of the signal.

    Raises
    ------
    RecipeError
        There are not two regions, or they lie on the same place.
    """
    places, regions = table.axis.places(), parameters.regions
    if not regions:
        sides = [np.arange(len(places)) == 0, np.arange(len(places)) == len(places) - 1]
    elif len(regions) == 2:
        sides = [inside(table.axis, (region,)) for region in regions]
    else:
        raise RecipeError(
            f"The straight baseline has {len(regions)} regions; it goes through two.", "Give two, or none."
        )
    (x1, x2) = (float(places[side].mean()) for side in sides)
    if x1 == x2:
        raise RecipeError("The two regions of the straight baseline lie on one place.", "Move one of them.")
    y1, y2 = (table.values[:, side].mean(axis=1, keepdims=True) for side in sides)
    found: Floats = y1 + (y2 - y1) * ((places - x1) / (x2 - x1))
    return found


def suggest(table: Table) -> BaselineLineParameters:
    """The outermost fiftieth of the axis at each end."""
    places = table.axis.places()
    reach = max(1, len(places) // 50)
    ends = ((places[0], places[reach - 1]), (places[-reach], places[-1]))
    return BaselineLineParameters(regions=tuple((float(min(pair)), float(max(pair))) for pair in ends))


TREATMENT = Treatment(
    key="baseline-line",
    name="Straight baseline",
    family="baseline",
    purpose="removes slope and offset: a line through two regions without bands",
    help="The line goes through the mean of each region. Drag its two ends on the picture.",
    source="Rinnan, van den Berg & Engelsen, Trends Anal. Chem. 28 (2009) 1201–1222",
    parameters=BaselineLineParameters,
    apply=subtracting(baselines),
    needs=("ordered", "no-gaps"),
    short=lambda parameters: "through two regions" if parameters.regions else "through both ends",
    inside=taken_off,
    suggest=suggest,
)
