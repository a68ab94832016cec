"""Power."""

from __future__ import annotations

from typing import Annotated

from msgspec import Meta

from scutcher.core.data.table import Table
from scutcher.core.treatments.base import Learned, Parameters, Treatment
from scutcher.core.treatments.support.refusals import refuse_values


class PowerParameters(Parameters, frozen=True):
    """The exponent."""

    exponent: Annotated[
        float, Meta(gt=0.0, le=10.0, description="the value is raised to it", extra={"slider": (0.1, 3)})
    ] = 0.5


def apply(table: Table, parameters: PowerParameters, learned: Learned) -> Table:
    """Treat a table; gaps stay gaps."""
    if parameters.exponent != int(parameters.exponent):
        refuse_values(
            table,
            table.values < 0.0,
            f"A power of {parameters.exponent:g} needs values of zero or more",
            "Choose a whole exponent, or take off the baseline first.",
        )
    return table.with_values(table.values**parameters.exponent, f"{table.signal}^{parameters.exponent:g}", "")


TREATMENT = Treatment(
    key="power",
    name="Power",
    family="transform",
    purpose="evens out or raises differences between small and large values",
    help="Exponents below one even out, above one raise what is large.",
    source="Box & Cox, J. R. Stat. Soc. B 26 (1964) 211–252",
    parameters=PowerParameters,
    apply=apply,
    short=lambda p: f"x^{p.exponent:g}",
)
