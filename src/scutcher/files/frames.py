"""Columns of cells as a table: roles, numbers, and the text among them that is refused."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from pathlib import Path
from typing import TYPE_CHECKING, Any

import numpy as np

from scutcher.core.arrays import Floats
from scutcher.core.data.axis import Axis, split_unit
from scutcher.core.data.columns import ClassColumn, PropertyColumn
from scutcher.core.data.constant_variables import leave_out_empty
from scutcher.core.data.origin import UNKNOWN, Origin
from scutcher.core.data.table import Table
from scutcher.core.errors import FileError, TableError
from scutcher.core.frozen import frozen
from scutcher.files.columns import Columns, Roles, number_of, sort_columns, without_infinities
from scutcher.files.layout.cells import days_of, hours_of
from scutcher.files.spectra import unique_names

if TYPE_CHECKING:
    import pandas


@frozen
class Frame:
    """Columns of cells with what is known of them.

    Attributes
    ----------
    cells : one column for each variable or role
    path : of the file, for its name and for messages
    line_of : the line of the file in which a sample stands
    quantity, unit : of the axis
    dates : the columns that hold dates
    day_order : "day-first", "month-first" or ""
    origin : how it was read
    """

    cells: pandas.DataFrame
    path: Path
    line_of: Callable[[int], int]
    quantity: str = ""
    unit: str = ""
    dates: tuple[str, ...] = ()
    day_order: str = ""
    origin: Origin = UNKNOWN


def table_of_frame(frame: Frame, roles: Roles) -> Table:
    """Sort the columns by role and read the numbers; constant and empty variables are left out.

    Raises
    ------
    FileError
        No numbers, text in a column of numbers, a named column that is not there.
    TableError
        Two samples with one id, an infinite value, an axis that turns back.
    """
    header = [str(name) for name in frame.cells.columns]

    def is_text(name: str) -> bool:
        return name not in frame.dates and not _is_numeric(frame.cells[name])

    columns = sort_columns(header, is_text, roles, frame.path.name, frame.dates)
    try:
        table = _table(frame, columns, roles)
        if roles.order is not None:
            order = _measured(frame, roles.order, roles).values
            table = table.take(np.argsort(order, kind="stable"))
        return leave_out_empty(table)
    except TableError as error:
        raise TableError(f"{frame.path.name}: {error.problem}", error.remedy, error.mends) from error


def _is_numeric(column: pandas.Series[Any]) -> bool:
    """Whether a column is numbers; one that is mostly numbers counts, so that its text can be named."""
    import pandas

    if pandas.api.types.is_numeric_dtype(column) and not pandas.api.types.is_bool_dtype(column):
        return True
    known = column.dropna()
    return len(known) > 0 and pandas.to_numeric(known, errors="coerce").notna().mean() > 0.5


def _numbers(frame: Frame, names: tuple[str, ...], roles: Roles) -> Floats:
    import pandas

    cells = frame.cells
    first = list(cells.columns).index(names[0])
    in_a_row = tuple(cells.columns[first : first + len(names)]) == names
    part = cells.iloc[:, first : first + len(names)] if in_a_row else cells[list(names)]  # no copy of a slice
    if all(pandas.api.types.is_numeric_dtype(kind) for kind in part.dtypes):
        plain: Floats = part.to_numpy(dtype=np.float64)
        return plain
    numbers: Floats = part.apply(pandas.to_numeric, errors="coerce").to_numpy(dtype=np.float64)
    wrong = np.argwhere((np.isnan(numbers) & part.notna().to_numpy()).T)
    if wrong.size and "text-as-gaps" not in roles.mends:
        (column, row), others = wrong[0], len(wrong) - 1
        raise FileError(
            f"Row {frame.line_of(int(row))} of {frame.path.name} has {str(part.iat[row, column])!r} "
            f"in column {names[column]!r}, among numbers"
            + (f"; {others} other cell{'s' * (others > 1)} too." if others else "."),
            "Correct the cell or leave it empty; nothing was imported.",
            ("text-as-gaps",),
        )
    return numbers


def _measured(frame: Frame, name: str, roles: Roles) -> PropertyColumn:
    """A column of numbers, or of dates as days."""
    label, unit = split_unit(name)
    if name not in frame.dates:
        return PropertyColumn(label, _numbers(frame, (name,), roles)[:, 0], unit)
    hours = hours_of(frame.cells[name].tolist())
    if hours is not None:
        return PropertyColumn(label, np.array(hours), "h")
    made = days_of(frame.cells[name].tolist(), frame.day_order)
    if isinstance(made, str):
        raise FileError(f"The column {name!r} of {frame.path.name} cannot be read: {made}.", "Correct it.")
    days, start = made
    return PropertyColumn(label, np.array(days), f"d since {start:%Y-%m-%d}")


def _texts(column: pandas.Series[Any]) -> tuple[str, ...]:
    return tuple("" if value is None or value != value else str(value).strip() for value in column)


def _table(frame: Frame, columns: Columns, roles: Roles) -> Table:
    cells, path = frame.cells, frame.path
    values = without_infinities(_numbers(frame, columns.variables, roles), roles)
    positions = [number_of(name) for name in columns.variables] if columns.ordered else None
    ids = _texts(cells[columns.id]) if columns.id else tuple(str(row + 1) for row in range(len(cells)))
    replicates = _texts(cells[columns.replicate]) if columns.replicate else None
    if "ids-as-replicates" in roles.mends:
        replicates = replicates or ids
    if {"ids-as-replicates", "number-ids"} & set(roles.mends):
        ids = unique_names(ids)
    axis_names = (frame.quantity, frame.unit) if columns.ordered else ("", "")
    return Table(
        values=values,
        axis=Axis(
            columns.variables,
            None if positions is None else np.array(positions, dtype=np.float64),
            *axis_names,
        ),
        ids=ids,
        name=path.stem,
        classes=tuple(ClassColumn(name, _texts(cells[name])) for name in columns.classes),
        properties=tuple(_measured(frame, name, roles) for name in columns.properties),
        replicates=replicates,
        origin=frame.origin,
    )


def column_of(cells: Sequence[Any], as_text: bool, number: Callable[[Any], float | None]) -> Any:
    """A column for a `Frame`: of floats where every cell is a number or a gap; texts as they are if asked."""
    import pandas

    from scutcher.files.layout.cells import GAPS
    from scutcher.files.layout.laid import text_of

    if as_text:
        return pandas.Series([text_of(cell) for cell in cells], dtype=str)
    found: list[Any] = []
    only_numbers = True
    for cell in cells:
        value = number(cell)
        if value is not None:
            found.append(value)
        elif cell is None or (isinstance(cell, str) and cell.strip() in GAPS):
            found.append(np.nan)
        else:
            only_numbers = False
            found.append(text_of(cell))
    if only_numbers:
        return pandas.Series(np.array(found, dtype=np.float64))
    return pandas.Series([None if value != value else value for value in found], dtype=object)
