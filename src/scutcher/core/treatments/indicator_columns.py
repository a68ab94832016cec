"""Indicator columns: a class column as zeros and ones among the variables."""

from __future__ import annotations

from dataclasses import replace
from typing import Annotated

import numpy as np
from msgspec import Meta

from scutcher.core.data.axis import Axis
from scutcher.core.data.table import Table
from scutcher.core.errors import TableError
from scutcher.core.treatments.base import Learned, Parameters, Treatment
from scutcher.core.treatments.support.reference_spectra import class_column_of


class IndicatorColumnsParameters(Parameters, frozen=True):
    """Which class column."""

    column: Annotated[
        str, Meta(description="class column; empty: the first", extra={"of": "class column"})
    ] = ""


def fit(table: Table, parameters: IndicatorColumnsParameters) -> Learned:
    """The levels that samples of the set have."""
    column = class_column_of(table, parameters.column)
    return {"levels": tuple(level for level in column.names if level in column.values)}


def apply(table: Table, parameters: IndicatorColumnsParameters, learned: Learned) -> Table:
    """A column for each level: 1 for its samples, 0 for others, a gap where the class is not known."""
    assert learned is not None
    column = class_column_of(table, parameters.column)
    levels = learned["levels"]
    strange = next((row for row, value in enumerate(column.values) if value and value not in levels), None)
    if strange is not None:
        raise TableError(
            f"Sample {table.ids[strange]} is of class {column.values[strange]!r} of {column.name}, "
            "which the training set does not have.",
            "Correct its class, or leave the sample out.",
        )
    values = np.array(column.values)[:, np.newaxis]
    added = np.where(values == "", np.nan, values == np.array(levels)[np.newaxis, :])
    axis = Axis((*table.axis.labels, *(f"{column.name}={level}" for level in levels)))
    return replace(table, values=np.hstack([table.values, added]), axis=axis)


TREATMENT = Treatment(
    key="indicator-columns",
    name="Indicator columns",
    family="transform",
    purpose="lets a categorical column take part in the model",
    help="A column of zeros and ones for each class. Such columns weigh as much as measured ones: scale them "
    "as a block.",
    source="Greenacre, Correspondence Analysis in Practice, Chapman & Hall (2007)",
    parameters=IndicatorColumnsParameters,
    apply=apply,
    fit=fit,
    needs=("classes", "mixed"),
    short=lambda p: f"from {p.column or 'the first class column'}",
)
