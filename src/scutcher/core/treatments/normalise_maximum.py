"""Each spectrum divided by its largest value."""

from __future__ import annotations

from scutcher.core.data.table import Table
from scutcher.core.treatments.base import Learned, Parameters, Treatment
from scutcher.core.treatments.support.normalising import divided


class NormaliseMaximumParameters(Parameters, frozen=True):
    """There is nothing to set."""


def apply(table: Table, parameters: NormaliseMaximumParameters, learned: Learned) -> Table:
    """Treat a table."""
    return divided(table, table.values.max(axis=1), "The maximum", "maximum 1")


TREATMENT = Treatment(
    key="normalise-maximum",
    name="Maximum to one",
    family="normalise",
    purpose="removes the amount: the highest value of each spectrum is one",
    help="Each spectrum is divided by its largest value, which must be positive; "
    "noise at that channel goes into all others.",
    source="van den Berg et al., BMC Genomics 7 (2006) 142",
    parameters=NormaliseMaximumParameters,
    apply=apply,
    needs=("no-gaps",),
    short=lambda parameters: "maximum 1",
)
