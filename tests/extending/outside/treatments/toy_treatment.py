"""Doubles every value."""

from typing import Annotated

from msgspec import Meta

from scutcher.core.data.table import Table
from scutcher.core.treatments.base import Learned, Parameters, Treatment


class ToyParameters(Parameters, frozen=True):
    """How often."""

    times: Annotated[float, Meta(gt=0.0, le=10.0, description="what each value is multiplied by")] = 2.0


def apply(table: Table, parameters: ToyParameters, learned: Learned) -> Table:
    """Treat a table."""
    return table.with_values(parameters.times * table.values)


TREATMENT = Treatment(
    key="toy-treatment",
    name="Toy treatment",
    family="transform",
    purpose="shows how one is added",
    help="It multiplies.",
    source="Nobody (2026)",
    parameters=ToyParameters,
    apply=apply,
    short=lambda parameters: f"{parameters.times:g} ×",
)
