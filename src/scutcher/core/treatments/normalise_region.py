"""Each spectrum divided by its height or its area in a region."""

from __future__ import annotations

from typing import Annotated, Literal

import numpy as np
from msgspec import Meta

from scutcher.core.arrays import Floats
from scutcher.core.data.regions import Regions, inside_or_all, regions_text
from scutcher.core.data.table import Table
from scutcher.core.treatments.base import Learned, Parameters, Treatment
from scutcher.core.treatments.support.normalising import divided


class NormaliseRegionParameters(Parameters, frozen=True):
    """Which region, and what of it."""

    by: Annotated[
        Literal["area", "height"], Meta(description="area by trapezoids over the axis, or the highest value")
    ] = "area"
    regions: Annotated[
        Regions, Meta(description="where it is measured; none: everywhere", extra={"unit": "axis"})
    ] = ()


def areas(values: Floats, places: Floats, regions: Regions) -> Floats:
    """Area of each spectrum over the regions by trapezoids, (n,), signal unit × axis unit, axis rising."""
    total = np.zeros(len(values))
    for region in regions or ((float(places.min()), float(places.max())),):
        within = (places >= min(region)) & (places <= max(region))
        total += np.trapezoid(values[:, within], places[within], axis=1) * np.sign(places[-1] - places[0])
    return total


def apply(table: Table, parameters: NormaliseRegionParameters, learned: Learned) -> Table:
    """Treat a table."""
    within = inside_or_all(table.axis, parameters.regions)
    if parameters.by == "height":
        return divided(table, table.values[:, within].max(axis=1), "The height in the region", "height 1")
    found = areas(table.values, table.axis.places(), parameters.regions)
    return divided(table, found, "The area of the region", "area 1")


TREATMENT = Treatment(
    key="normalise-region",
    name="Height or area of a region to one",
    family="normalise",
    purpose="removes the amount by an internal band: its height or area becomes one",
    help="Choose a band that stands for the amount of sample and nothing else. Take off the baseline first.",
    source="van den Berg et al., BMC Genomics 7 (2006) 142",
    parameters=NormaliseRegionParameters,
    apply=apply,
    needs=("ordered", "no-gaps"),
    short=lambda p: f"{p.by} of {regions_text(p.regions) or 'the whole axis'}",
)
