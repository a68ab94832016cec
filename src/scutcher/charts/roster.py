"""The roster: every sample with all that is known of it, as rows of text; and the variables likewise."""

from __future__ import annotations

from typing import Any

import numpy as np

from scutcher.core.arrays import Floats, Integers
from scutcher.core.data.names import Names
from scutcher.core.data.replicates import replicate_spread
from scutcher.core.data.table import Table
from scutcher.core.frozen import frozen


@frozen
class RosterColumn:
    """One column of the roster.

    Attributes
    ----------
    name, header : str
        The name in the table, and what stands over it (with its unit).
    kind : "id", "class", "property", "replicate", "spread", "order", "turn", "gaps" or "state"
    """

    name: str
    header: str
    kind: str

    @property
    def editable(self) -> bool:
        """Whether its cells can be written into."""
        return self.kind in ("class", "property")


TURN = "Degrees by which the plane of the components kept turns without the sample, or without its replicates"


def roster_columns(table: Table, turning: bool = False) -> tuple[RosterColumn, ...]:
    """The columns that a table has; with what the model says of each sample where that is known."""
    columns = [RosterColumn("order", "order", "order"), RosterColumn("sample", "sample", "id")]
    columns += [RosterColumn(c.name, c.name, "class") for c in table.classes]
    columns += [RosterColumn(c.name, c.header, "property") for c in table.properties]
    if table.replicates is not None:
        columns.append(RosterColumn("replicate", "replicate", "replicate"))
        columns.append(RosterColumn("spread", "spread", "spread"))
    if turning:
        columns.append(RosterColumn("turn", "turns / °", "turn"))
    columns += [RosterColumn("gaps", "gaps", "gaps"), RosterColumn("state", "state", "state")]
    return tuple(columns)


def roster_values(table: Table, column: RosterColumn) -> Any:
    """The values of one column: (n,) floats where it is numbers (NaN where not known), else n texts.

    Spread and gaps are `figures_of_samples`; the turn is the model's.
    """
    if column.kind == "order":
        return np.arange(1.0, len(table.ids) + 1.0)
    if column.kind == "id":
        return table.ids
    if column.kind == "class":
        return table.class_column(column.name).values
    if column.kind == "property":
        return next(c.values for c in table.properties if c.name == column.name)
    if column.kind == "replicate":
        return table.replicates or ()
    states = [""] * len(table.ids)
    for row, reason in table.set_aside.items():
        states[row] = f"set aside: {reason}"
    return Names(states)


@frozen(eq=False)
class SampleFigures:
    """What takes a pass over the values.

    Attributes
    ----------
    gaps : (n,) float array
        How many values are missing.
    spread : (n,) float array or None
        Distance from the mean of the replicates, where there are any.
    """

    gaps: Floats
    spread: Floats | None


def figures_of_samples(table: Table) -> SampleFigures:
    """Gaps and replicate spread of each sample over the variables that are used."""
    columns = table.used_columns()
    values = table.values if len(columns) == len(table.axis) else table.values[:, columns]
    gaps = np.isnan(values).sum(axis=1).astype(np.float64) if table.has_gaps else np.zeros(len(values))
    return SampleFigures(
        gaps, None if table.replicates is None else replicate_spread(values, table.replicates)
    )


BINS = 14

COUNTED = 1_000_000
"""Values that are counted in one go: NumPy holds the interpreter meanwhile, and the window waits."""


@frozen(eq=False)
class VariableFigures:
    """Each variable over the samples that are not set aside; gaps are passed over.

    Attributes
    ----------
    low, high, mean, deviation : (p,) float arrays
        Minimum, maximum, mean and standard deviation (n − 1), in the unit of the variable; NaN where
        there is no value.
    gaps : (p,) int array
    histogram : (p, BINS) int array
        Samples in equal steps from low to high.
    """

    low: Floats
    high: Floats
    mean: Floats
    deviation: Floats
    gaps: Integers
    histogram: Integers


def variable_figures(table: Table) -> VariableFigures:
    """The figures of every variable."""
    values = table.values[table.used_rows()]
    known = ~np.isnan(values)
    count = known.sum(axis=0)
    p = values.shape[1]
    low, high = np.fmin.reduce(values, axis=0), np.fmax.reduce(values, axis=0)
    mean, deviation = np.full(p, np.nan), np.full(p, np.nan)
    np.divide(np.where(known, values, 0.0).sum(axis=0), count, out=mean, where=count > 0)
    squares = np.where(known, values - mean, 0.0) ** 2
    np.divide(squares.sum(axis=0), count - 1, out=deviation, where=count > 1)
    span = np.where(high > low, high - low, 1.0)
    steps = np.clip((np.where(known, values, 0.0) - low) / span * BINS, 0, BINS - 1)
    places = np.nan_to_num(steps).astype(np.intp) + BINS * np.arange(p)
    histogram = np.zeros(p * BINS, dtype=np.intp)
    rows = max(COUNTED // p, 1)
    for start in range(0, len(values), rows):
        part = slice(start, start + rows)
        histogram += np.bincount(places[part][known[part]], minlength=p * BINS)
    counts = histogram.reshape(p, BINS)
    return VariableFigures(low, high, mean, np.sqrt(deviation), (~known).sum(axis=0), counts)
