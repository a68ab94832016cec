"""Offset: one value taken off each spectrum."""

from __future__ import annotations

from typing import Annotated

import numpy as np
from msgspec import Meta

from scutcher.core.arrays import Floats
from scutcher.core.data.regions import Regions, inside, regions_text
from scutcher.core.data.table import Table
from scutcher.core.treatments.base import Inside, Learned, Parameters, Treatment


class BaselineOffsetParameters(Parameters, frozen=True):
    """Where the offset is read."""

    regions: Annotated[
        Regions,
        Meta(description="the mean over them is taken off; none: the smallest value", extra={"unit": "axis"}),
    ] = ()


def offsets(table: Table, regions: Regions) -> Floats:
    """What is taken off each sample, (n,), in the unit of the signal."""
    if regions:
        mean: Floats = table.values[:, inside(table.axis, regions)].mean(axis=1)
        return mean
    lowest: Floats = table.values.min(axis=1)
    return lowest


def apply(table: Table, parameters: BaselineOffsetParameters, learned: Learned) -> Table:
    """Treat a table."""
    found = offsets(table, parameters.regions)
    return table.with_values(table.values - found[:, np.newaxis])


def show(table: Table, after: Table, parameters: BaselineOffsetParameters, learned: Learned) -> Inside:
    """The offset of each spectrum."""
    found = offsets(table, parameters.regions)
    return Inside(np.broadcast_to(found[:, np.newaxis], table.shape), None, found, "offset")


TREATMENT = Treatment(
    key="baseline-offset",
    name="Offset",
    family="baseline",
    purpose="removes a constant baseline: the spectrum stands on zero",
    help="The smallest value of each spectrum, or its mean over regions without bands, is taken off. The "
    "smallest value follows the noise: regions are steadier.",
    source="Rinnan, van den Berg & Engelsen, Trends Anal. Chem. 28 (2009) 1201–1222",
    parameters=BaselineOffsetParameters,
    apply=apply,
    needs=("no-gaps",),
    short=lambda parameters: (
        f"at {regions_text(parameters.regions)}" if parameters.regions else "smallest value"
    ),
    inside=show,
)
