"""Each spectrum divided by its Euclidean length."""

from __future__ import annotations

import numpy as np

from scutcher.core.data.table import Table
from scutcher.core.treatments.base import Learned, Parameters, Treatment
from scutcher.core.treatments.support.normalising import divided


class NormaliseLengthParameters(Parameters, frozen=True):
    """There is nothing to set."""


def apply(table: Table, parameters: NormaliseLengthParameters, learned: Learned) -> Table:
    """Treat a table."""
    return divided(
        table, np.sqrt(np.einsum("ij,ij->i", table.values, table.values)), "The length", "length 1"
    )


TREATMENT = Treatment(
    key="normalise-length",
    name="Length to one",
    family="normalise",
    purpose="removes the amount: each spectrum has length one",
    help="Each spectrum is divided by the root of the sum of its squares; high bands weigh most.",
    source="van den Berg et al., BMC Genomics 7 (2006) 142",
    parameters=NormaliseLengthParameters,
    apply=apply,
    needs=("no-gaps",),
    short=lambda parameters: "length 1",
)
