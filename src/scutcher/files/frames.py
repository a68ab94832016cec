"""A grid of cells with a header as a table: roles, numbers, and the text among them that is refused."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Any

import numpy as np

from scutcher.core.arrays import Floats
from scutcher.core.data.axis import Axis, split_unit
from scutcher.core.data.constant_variables import leave_out_unusable
from scutcher.core.data.table import ClassColumn, PropertyColumn, Table
from scutcher.core.errors import FileError, TableError
from scutcher.files.columns import Columns, Roles, number_of, sort_columns, without_infinities
from scutcher.files.spectra import unique_names

if TYPE_CHECKING:
    import pandas


def table_of_frame(frame: pandas.DataFrame, roles: Roles, path: Path, first_row: int = 2) -> Table:
    """Sort the columns by role and read the numbers; constant and empty variables are left out.

    `first_row` is the row of the file that the first sample stands in, for messages.

    Raises
    ------
    FileError
        No numbers, text in a column of numbers, a named column that is not there.
    TableError
        Two samples with one id, an infinite value, an axis that turns back.
    """
    if roles.transposed:
        frame = _turned(frame, path)
    header = [str(name) for name in frame.columns]
    columns = sort_columns(header, lambda name: not _is_numeric(frame[name]), roles, path.name)
    try:
        table = _table(frame, columns, roles, path, first_row)
        if roles.order is not None:
            order = _numbers(frame, (roles.order,), roles, path, first_row)[:, 0]
            table = table.take(np.argsort(order, kind="stable"))
        return leave_out_unusable(table)
    except TableError as error:
        raise TableError(f"{path.name}: {error.problem}", error.remedy, error.mends) from error


def _turned(frame: pandas.DataFrame, path: Path) -> pandas.DataFrame:
    """A file whose samples stand in columns: its first column holds the headers, its header the ids."""
    import pandas

    labels = [f"{cell:.10g}" if isinstance(cell, float) else str(cell) for cell in frame.iloc[:, 0].tolist()]
    twice = next((label for label in labels if labels.count(label) > 1), None)
    if twice is not None:
        raise FileError(
            f"{twice!r} stands twice in the first column of {path.name}.",
            "Rename one of them; nothing was imported.",
        )
    turned = frame.iloc[:, 1:].T
    turned.columns = pandas.Index(labels)
    ids = pandas.Series([str(name) for name in turned.index], name="sample", dtype=str)
    return pandas.concat([ids, turned.reset_index(drop=True).infer_objects()], axis=1)


def _is_numeric(column: pandas.Series[Any]) -> bool:
    """Whether a column is numbers; one that is mostly numbers counts, so that its text can be named."""
    import pandas

    if pandas.api.types.is_numeric_dtype(column) and not pandas.api.types.is_bool_dtype(column):
        return True
    known = column.dropna()
    return len(known) > 0 and pandas.to_numeric(known, errors="coerce").notna().mean() > 0.5


def _numbers(
    frame: pandas.DataFrame, names: tuple[str, ...], roles: Roles, path: Path, first_row: int
) -> Floats:
    import pandas

    first = list(frame.columns).index(names[0])
    in_a_row = tuple(frame.columns[first : first + len(names)]) == names
    part = frame.iloc[:, first : first + len(names)] if in_a_row else frame[list(names)]  # no copy of a slice
    if all(pandas.api.types.is_numeric_dtype(kind) for kind in part.dtypes):
        plain: Floats = part.to_numpy(dtype=np.float64)
        return plain
    numbers: Floats = part.apply(pandas.to_numeric, errors="coerce").to_numpy(dtype=np.float64)
    wrong = np.argwhere((np.isnan(numbers) & part.notna().to_numpy()).T)
    if wrong.size and "text-as-gaps" not in roles.mends:
        (column, row), others = wrong[0], len(wrong) - 1
        raise FileError(
            f"Row {row + first_row} of {path.name} has {str(part.iat[row, column])!r} in column "
            f"{names[column]!r}, among numbers"
            + (f"; {others} other cell{'s' * (others > 1)} too." if others else "."),
            "Correct the cell or leave it empty; nothing was imported.",
            ("text-as-gaps",),
        )
    return numbers


def _texts(column: pandas.Series[Any]) -> tuple[str, ...]:
    return tuple("" if value is None or value != value else str(value).strip() for value in column)


def _table(frame: pandas.DataFrame, columns: Columns, roles: Roles, path: Path, first_row: int) -> Table:
    values = without_infinities(_numbers(frame, columns.variables, roles, path, first_row), roles)
    positions = [number_of(name) for name in columns.variables] if columns.ordered else None
    properties = []
    for name in columns.properties:
        label, unit = split_unit(name)
        properties.append(PropertyColumn(label, _numbers(frame, (name,), roles, path, first_row)[:, 0], unit))
    ids = _texts(frame[columns.id]) if columns.id else tuple(str(row + 1) for row in range(len(frame)))
    replicates = _texts(frame[columns.replicate]) if columns.replicate else None
    if "ids-as-replicates" in roles.mends:
        replicates = replicates or ids
    if {"ids-as-replicates", "number-ids"} & set(roles.mends):
        ids = unique_names(ids)
    return Table(
        values=values,
        axis=Axis(columns.variables, None if positions is None else np.array(positions, dtype=np.float64)),
        ids=ids,
        name=path.stem,
        classes=tuple(ClassColumn(name, _texts(frame[name])) for name in columns.classes),
        properties=tuple(properties),
        replicates=replicates,
    )
