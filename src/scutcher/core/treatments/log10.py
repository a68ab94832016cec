"""Decimal logarithm, with an offset."""

from __future__ import annotations

from typing import Annotated

import numpy as np
from msgspec import Meta

from scutcher.core.data.table import Table
from scutcher.core.treatments.base import Learned, Parameters, Treatment
from scutcher.core.treatments.support.refusals import refuse_values
from scutcher.core.words import shown


class Log10Parameters(Parameters, frozen=True):
    """What is added before."""

    offset: Annotated[float, Meta(description="added before the logarithm", extra={"unit": "signal"})] = 0.0


def apply(table: Table, parameters: Log10Parameters, learned: Learned) -> Table:
    """Treat a table; gaps stay gaps."""
    shifted = table.values + parameters.offset
    refuse_values(
        table,
        shifted <= 0.0,
        f"The logarithm needs values above {shown(0.0 - parameters.offset)}",
        "Raise the offset, or leave that variable out.",
    )
    return table.with_values(np.log10(shifted), f"log10 {table.signal}", "")


TREATMENT = Treatment(
    key="log10",
    name="Logarithm",
    family="transform",
    purpose="evens out spread that grows with size; products become sums",
    help="log10 of the value plus an offset. An offset tames values near zero and bends the scale there.",
    source="van den Berg et al., BMC Genomics 7 (2006) 142",
    parameters=Log10Parameters,
    apply=apply,
    short=lambda p: f"log10(x + {shown(p.offset)})" if p.offset else "log10 x",
)
