"""Transmittance (or reflectance) to absorbance, and back."""

from __future__ import annotations

from typing import Annotated, Literal

import numpy as np
from msgspec import Meta

from scutcher.core.data.table import Table
from scutcher.core.treatments.base import Learned, Parameters, Treatment
from scutcher.core.treatments.support.refusals import refuse_values


class AbsorbanceTransmittanceParameters(Parameters, frozen=True):
    """Which way, and the scale of the transmittance."""

    to: Annotated[Literal["absorbance", "transmittance"], Meta(description="what comes out")] = "absorbance"
    percent: Annotated[bool, Meta(description="whether the transmittance is in percent")] = False


def apply(table: Table, parameters: AbsorbanceTransmittanceParameters, learned: Learned) -> Table:
    """A = −log10 T, T = 10^−A; gaps stay gaps."""
    full = 100.0 if parameters.percent else 1.0
    if parameters.to == "transmittance":
        values = full * 10.0**-table.values
        return table.with_values(values, "transmittance", "%" if parameters.percent else "")
    refuse_values(
        table, table.values <= 0.0, "Absorbance needs a transmittance above zero", "Leave that channel out."
    )
    return table.with_values(-np.log10(table.values / full), "absorbance", "")


TREATMENT = Treatment(
    key="absorbance-transmittance",
    name="Transmittance ↔ absorbance",
    family="transform",
    purpose="makes bands proportional to concentration (absorbance), or the way back",
    help="A = −log10 T. The same holds for reflectance and apparent absorbance.",
    source="Beer, Ann. Phys. Chem. 86 (1852) 78–88",
    parameters=AbsorbanceTransmittanceParameters,
    apply=apply,
    short=lambda p: f"to {p.to}" + (", percent" if p.percent else ""),
)
