"""Square root."""

from __future__ import annotations

import numpy as np

from scutcher.core.data.table import Table
from scutcher.core.treatments.base import Learned, Parameters, Treatment
from scutcher.core.treatments.support.refusals import refuse_values


class SquareRootParameters(Parameters, frozen=True):
    """There is nothing to set."""


def apply(table: Table, parameters: SquareRootParameters, learned: Learned) -> Table:
    """Treat a table; gaps stay gaps."""
    refuse_values(
        table,
        table.values < 0.0,
        "The square root needs values of zero or more",
        "Take off the baseline first.",
    )
    return table.with_values(np.sqrt(table.values), f"√ {table.signal}", "")


TREATMENT = Treatment(
    key="square-root",
    name="Square root",
    family="transform",
    purpose="evens out the spread of counts",
    help="The spread of a count grows with its square root; afterwards it is the same everywhere.",
    source="Bartlett, J. R. Stat. Soc. Suppl. 3 (1936) 68–78",
    parameters=SquareRootParameters,
    apply=apply,
    short=lambda p: "√x",
)
