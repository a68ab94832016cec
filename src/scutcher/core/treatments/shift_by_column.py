"""Alignment: each spectrum shifted by what a column of the table says: measured elsewhere, or on a region."""

from __future__ import annotations

from typing import Annotated

import numpy as np
from msgspec import Meta

from scutcher.core.data.table import Table
from scutcher.core.errors import TableError
from scutcher.core.treatments.base import Learned, Parameters, Treatment
from scutcher.core.treatments.normalise_property import property_values
from scutcher.core.treatments.support.requirements import spacing
from scutcher.core.treatments.support.shifting import MostShift, check_room, moved
from scutcher.core.words import shown


class ShiftByColumnParameters(Parameters, frozen=True):
    """Which column, and how far a spectrum may move."""

    column: Annotated[
        str,
        Meta(
            description="property with the shift of each sample, in axis units; empty: the first",
            extra={"of": "property"},
        ),
    ] = ""
    most: MostShift = 5


def apply(table: Table, parameters: ShiftByColumnParameters, learned: Learned) -> Table:
    """Treat a table: a peak that stands too high by its shift is moved back by it."""
    check_room(table, parameters.most)
    shifts = property_values(table, parameters.column) / spacing(table)
    far = np.flatnonzero(np.abs(shifts) > parameters.most)
    if far.size:
        row = int(far[0])
        raise TableError(
            f"The shift of sample {table.ids[row]} is {shown(shifts[row], '+.1f')} channels; "
            f"{parameters.most} are allowed.",
            "Allow a larger shift, name another column, or set the sample aside.",
        )
    return moved(table, shifts, parameters.most)


def suggest(table: Table) -> ShiftByColumnParameters:
    """The property that is called a shift, and as many channels as its largest value takes."""
    named = [column for column in table.properties if "shift" in column.name.lower()]
    column = next(iter(named or table.properties), None)
    if column is None or table.shape[1] < 3 or not table.axis.ordered:
        return ShiftByColumnParameters()
    known = column.values[np.isfinite(column.values)]
    largest = float(np.abs(known).max() / abs(spacing(table))) if len(known) else 1.0
    most = int(np.clip(np.ceil(largest - 1e-9), 1, max(min(500, (table.shape[1] - 2) // 2), 1)))
    return ShiftByColumnParameters(column=column.name, most=most)


TREATMENT = Treatment(
    key="shift-by-column",
    name="Shift by a column",
    family="align",
    purpose="aligns spectra by shifts that stand in a column: of another region or another series",
    help="Each spectrum moves back by the value of a property, in the unit of the axis: shifts found by a "
    "peak elsewhere, or read from a table. The outermost channels are dropped.",
    source="Vandeginste et al., Handbook of Chemometrics and Qualimetrics B (1998), ch. 40 (interpolation)",
    parameters=ShiftByColumnParameters,
    apply=apply,
    needs=("ordered", "even", "no-gaps", "properties"),
    short=lambda p: f"by {p.column or 'first property'}",
    suggest=suggest,
    cost=60.0,
)
