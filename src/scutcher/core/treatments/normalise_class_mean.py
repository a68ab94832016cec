"""Each variable divided by its mean over a class, so that this class has mean one."""

from __future__ import annotations

from typing import Annotated

import numpy as np
from msgspec import Meta

from scutcher.core.data.table import Table
from scutcher.core.errors import TableError
from scutcher.core.treatments.base import Learned, Parameters, Treatment
from scutcher.core.treatments.support.reference_spectra import rows_of_class
from scutcher.core.words import shown


class NormaliseClassMeanParameters(Parameters, frozen=True):
    """Which class."""

    column: Annotated[
        str, Meta(description="class column; empty: the first", extra={"of": "class column"})
    ] = ""
    level: Annotated[str, Meta(description="class; empty: the first", extra={"of": "class"})] = ""


def fit(table: Table, parameters: NormaliseClassMeanParameters) -> Learned:
    """The mean of the class.

    Raises
    ------
    TableError
        A mean is not positive; the variable is named.
    """
    mean = table.values[rows_of_class(table, parameters.column, parameters.level)].mean(axis=0)
    wrong = np.flatnonzero(mean <= 0.0)
    if wrong.size:
        column = int(wrong[0])
        raise TableError(
            f"The class mean of {table.axis.name(column)} is {shown(mean[column], '.4g')}; it must "
            f"be positive.",
            "Choose another class, or leave the variable out.",
        )
    return {"mean": mean}


def apply(table: Table, parameters: NormaliseClassMeanParameters, learned: Learned) -> Table:
    """Treat a table."""
    assert learned is not None
    return table.with_values(table.values / learned["mean"], f"{table.signal}, per class mean", "")


TREATMENT = Treatment(
    key="normalise-class-mean",
    name="Class mean to one",
    family="normalise",
    purpose="shows change against a control class: its mean is one at every variable",
    help="Each variable is divided by its mean over the samples of a class, e.g. the controls.",
    source="van den Berg et al., BMC Genomics 7 (2006) 142",
    parameters=NormaliseClassMeanParameters,
    apply=apply,
    fit=fit,
    needs=("classes", "no-gaps"),
    short=lambda p: f"mean of {p.level or 'first class'} = 1",
)
