"""Each spectrum divided by its sum."""

from __future__ import annotations

from scutcher.core.data.table import Table
from scutcher.core.treatments.base import Learned, Parameters, Treatment
from scutcher.core.treatments.support.normalising import divided


class NormaliseSumParameters(Parameters, frozen=True):
    """There is nothing to set."""


def apply(table: Table, parameters: NormaliseSumParameters, learned: Learned) -> Table:
    """Treat a table."""
    return divided(table, table.values.sum(axis=1), "The sum", "sum 1")


TREATMENT = Treatment(
    key="normalise-sum",
    name="Sum to one",
    family="normalise",
    purpose="removes the amount: each spectrum has sum one",
    help="Each spectrum is divided by the sum of its values, which must be positive.",
    source="van den Berg et al., BMC Genomics 7 (2006) 142",
    parameters=NormaliseSumParameters,
    apply=apply,
    needs=("no-gaps",),
    short=lambda parameters: "sum 1",
)
