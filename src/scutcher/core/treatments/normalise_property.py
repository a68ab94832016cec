"""Each spectrum divided by a property of the sample: its weight, its internal standard."""

from __future__ import annotations

from typing import Annotated

import numpy as np
from msgspec import Meta

from scutcher.core.arrays import Floats
from scutcher.core.data.table import Table
from scutcher.core.errors import TableError
from scutcher.core.treatments.base import Learned, Parameters, Treatment
from scutcher.core.treatments.support.normalising import divided


class NormalisePropertyParameters(Parameters, frozen=True):
    """Which property."""

    column: Annotated[str, Meta(description="the property; empty: the first", extra={"of": "property"})] = ""


def property_values(table: Table, name: str) -> Floats:
    """The (n,) values of a property column.

    Raises
    ------
    TableError
        There is none of that name; a sample has none.
    """
    found = next((c for c in table.properties if not name or name in (c.name, c.header)), None)
    if found is None:
        known = ", ".join(c.name for c in table.properties)
        raise TableError(f"There is no property {name!r} (there is: {known}).", "Name one of these.")
    lost = np.flatnonzero(np.isnan(found.values))
    if lost.size:
        raise TableError(
            f"The property {found.name} of sample {table.ids[int(lost[0])]} is not known.",
            "Fill it in on the Samples page, or set the sample aside.",
        )
    return found.values


def apply(table: Table, parameters: NormalisePropertyParameters, learned: Learned) -> Table:
    """Treat a table."""
    values = property_values(table, parameters.column)
    name = parameters.column or table.properties[0].name
    return divided(table, values, f"The property {name}", f"per {name}")


TREATMENT = Treatment(
    key="normalise-property",
    name="Divide by a property",
    family="normalise",
    purpose="removes the amount by a measured weight, volume or internal standard",
    help="Each spectrum is divided by a property of its sample, which must be known and positive.",
    source="van den Berg et al., BMC Genomics 7 (2006) 142",
    parameters=NormalisePropertyParameters,
    apply=apply,
    needs=("properties", "no-gaps"),
    short=lambda parameters: f"per {parameters.column or 'first property'}",
    suggest=lambda table: NormalisePropertyParameters(
        column=table.properties[0].name if table.properties else ""
    ),
)
