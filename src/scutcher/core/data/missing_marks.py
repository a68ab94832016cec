"""Numbers such as −999 that stand for missing values, told by lying far from the others."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from scutcher.core.arrays import Floats, value_span
from scutcher.core.data.table import Table
from scutcher.core.frozen import frozen
from scutcher.core.words import count_of, first_of

MARKS = (-99.0, -999.0, -9999.0, -99999.0, 999.0, 9999.0, 99999.0, 999999.0, -1e30, 1e30)
FAR = 3.0
"""How many ranges of the other values a mark lies from the nearest of them, at least."""
MOST = 0.5
"""Share of a column that marks may fill: more are values."""


@frozen
class Mark:
    """A number that may stand for a missing value.

    Attributes
    ----------
    value : float
    where : str
        The property, or the variables, that hold it.
    rows : tuple of int
        The samples that have it.
    columns : tuple of int
        The variables that hold it; none for a property.
    """

    value: float
    where: str
    rows: tuple[int, ...]
    columns: tuple[int, ...] = ()

    def text(self, table: Table) -> str:
        """One sentence, with its place."""
        shown = first_of([table.ids[row] for row in self.rows])
        value = f"{self.value:g}".replace("-", "−")
        return f"{value} in {self.where} of {count_of(self.rows)} ({shown}), read as a number: is it a gap?"


def with_gaps(table: Table, mark: float) -> Table:
    """The table with a number taken for a gap, in its values and properties; it is said in the remarks."""
    here = table.values == mark
    of_properties = [column.values == mark for column in table.properties]
    count = int(here.sum()) + sum(int(found.sum()) for found in of_properties)
    if not count:
        return table
    properties = tuple(
        replace(column, values=np.where(found, np.nan, column.values))
        for column, found in zip(table.properties, of_properties, strict=True)
    )
    values = np.where(here, np.nan, table.values) if here.any() else table.values
    shown = f"{mark:g}".replace("-", "−")
    taken = replace(table, values=values, properties=properties)
    return taken.remarked(f"{count_of(count, 'value')} {shown} taken for a gap")


def missing_marks(table: Table) -> list[Mark]:
    """The marks in the properties and in the values of a table."""
    found = []
    for column in table.properties:
        for mark in MARKS:
            rows = _rows_of(column.values, mark)
            if rows:
                found.append(Mark(mark, column.name, rows))
    return [*found, *_in_values(table)]


def _rows_of(values: Floats, mark: float) -> tuple[int, ...]:
    """The places of a mark in a column, if it stands far outside the other values."""
    here = values == mark
    if not here.any() or here.sum() > MOST * len(values):
        return ()
    others = values[~here & np.isfinite(values) & ~np.isin(values, MARKS)]
    if len(others) < 2:
        return ()
    distance = max(others.min() - mark, mark - others.max())
    if distance <= FAR * np.ptp(others) or distance <= 0.5 * abs(mark):
        return ()
    return tuple(np.flatnonzero(here).tolist())


def _in_values(table: Table) -> list[Mark]:
    """The marks that are the lowest or the highest of some variables."""
    used = table.used_columns()
    if not len(used) or not len(table.values):
        return []
    low, high = value_span(table.values)
    found = []
    for mark in MARKS:
        columns: list[int] = []
        rows: set[int] = set()
        for column in used[(low[used] == mark) | (high[used] == mark)].tolist():
            here = _rows_of(table.values[:, column], mark)
            if here:
                columns.append(column)
                rows.update(here)
        if columns:
            more = f" and {len(columns) - 1} more" if len(columns) > 1 else ""
            where = table.axis.name(columns[0]) + more
            found.append(Mark(mark, where, tuple(sorted(rows)), tuple(columns)))
    return found
