"""Probabilistic quotient normalisation: divide by the most probable dilution."""

from __future__ import annotations

from typing import Annotated

import numpy as np
from msgspec import Meta

from scutcher.core.arrays import Floats
from scutcher.core.data.table import Table
from scutcher.core.errors import TableError
from scutcher.core.treatments.base import Inside, Learned, Parameters, Treatment
from scutcher.core.treatments.support.normalising import divided
from scutcher.core.treatments.support.reference_spectra import class_rows


class ProbabilisticQuotientParameters(Parameters, frozen=True):
    """Of which samples the reference is the median."""

    column: Annotated[
        str,
        Meta(description="class column of the reference; empty: all samples", extra={"of": "class column"}),
    ] = ""
    level: Annotated[
        str, Meta(description="class of the reference; empty: all samples", extra={"of": "class"})
    ] = ""


def quotients(spectra: Floats, reference: Floats) -> Floats:
    """Median over the channels of spectrum / reference, where the reference is positive.

    Shapes (n, p), (p,) → (n,), dimensionless.

    Raises
    ------
    TableError
        The reference is nowhere positive.

    References
    ----------
    Dieterle, Ross, Schlotterbeck & Senn, Anal. Chem. 78 (2006) 4281–4290.
    """
    positive = reference > 0.0
    if not positive.any():
        raise TableError(
            "Quotient normalisation: the reference is nowhere positive.",
            "Put it before steps that centre or derive, or choose another class.",
        )
    found: Floats = np.median(spectra[:, positive] * (1.0 / reference[positive]), axis=1)
    return found


def fit(table: Table, parameters: ProbabilisticQuotientParameters) -> Learned:
    """The median spectrum."""
    rows = class_rows(table, parameters.column, parameters.level)
    return {"reference": np.median(table.values[rows], axis=0)}


def apply(table: Table, parameters: ProbabilisticQuotientParameters, learned: Learned) -> Table:
    """Treat a table."""
    assert learned is not None
    found = quotients(table.values, learned["reference"])
    return divided(table, found, "The median quotient", "quotient normalised")


def show(table: Table, after: Table, parameters: ProbabilisticQuotientParameters, learned: Learned) -> Inside:
    """The reference and the quotient of each sample."""
    assert learned is not None
    found = quotients(table.values, learned["reference"])
    return Inside(reference=learned["reference"], per_sample=found, per_sample_name="quotient")


TREATMENT = Treatment(
    key="probabilistic-quotient",
    name="Probabilistic quotient",
    family="normalise",
    purpose="removes dilution where a few bands change much and most do not",
    help="Each spectrum is divided by the median of its quotients to a reference. Its authors put a sum "
    "normalisation before it: add that as a step of its own.",
    source="Dieterle, Ross, Schlotterbeck & Senn, Anal. Chem. 78 (2006) 4281–4290",
    parameters=ProbabilisticQuotientParameters,
    apply=apply,
    fit=fit,
    needs=("no-gaps",),
    short=lambda p: f"median of {p.level or 'all'}",
    inside=show,
    cost=200.0,
)
