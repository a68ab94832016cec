"""CSV and TSV: one row per sample, a header row, numeric headers make an ordered axis."""

from __future__ import annotations

import csv
import io
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING, Any

import numpy as np

from scutcher.core.arrays import Floats
from scutcher.core.axis import Axis
from scutcher.core.errors import FileError, TableError
from scutcher.core.import_check import leave_out_unusable
from scutcher.core.table import ClassColumn, PropertyColumn, Table
from scutcher.files.columns import Columns, Roles, number_of, sort_columns, split_unit
from scutcher.files.safely import reading, write_text

if TYPE_CHECKING:
    import pandas

GAP_CELLS = ["", "NA", "N/A", "NaN", "nan", "-", "?", "null"]
DELIMITERS = (",", ";", "\t")
LOOKED_AT = 1 << 16  # bytes of the beginning that are looked at for what kind of file it is


@dataclass(frozen=True)
class Layout:
    """How the text is cut into cells."""

    delimiter: str
    decimal: str
    header: tuple[str, ...]
    blank_lines: int = 0


def read_delimited(path: Path, roles: Roles | None = None) -> Table:
    """Read a CSV or TSV file.

    Parameters
    ----------
    path : Path
        UTF-8, with or without byte-order mark; the delimiter (comma, semicolon, tab) and a decimal comma
        are found by themselves.
    roles : Roles
        Columns that the caller names. Else the first text column is the id, other text columns are
        classes, and numeric columns with a name beside a numeric axis are properties.

    Returns
    -------
    Table
        Constant and empty variables are left out with the reason.

    Raises
    ------
    FileError
        Missing, empty, binary, ragged, without numbers, text in a column of numbers.
    TableError
        Two samples with one id, an infinite value, an axis that turns back.
    """
    with reading(path):
        layout = _layout(path)
        _check_rows(path, layout)
        frame = _frame(path, layout, roles or Roles())
    columns = sort_columns(
        layout.header, lambda name: not _is_numeric(frame[name]), roles or Roles(), path.name
    )
    try:
        return leave_out_unusable(_table(frame, columns, path))
    except TableError as error:
        raise TableError(f"{path.name}: {error.problem}", error.remedy) from error


def _layout(path: Path) -> Layout:
    with path.open("rb") as stream:
        start = stream.read(LOOKED_AT)
    if not start.strip():
        raise FileError(f"{path.name} is empty.", "Choose a file with a header row and one row per sample.")
    if b"\0" in start:
        raise FileError(f"{path.name} is not a text file.", "Save the table as CSV or TSV.")
    with path.open(encoding="utf-8-sig", newline="") as stream:
        try:
            first = next(line for line in stream if line.strip())
            second = next((line for line in stream if line.strip()), "")
        except UnicodeDecodeError as error:
            raise _not_utf8(path) from error
    delimiter = max(DELIMITERS, key=first.count)
    header = tuple(cell.strip() for cell in next(csv.reader([first], delimiter=delimiter)))
    _check_header(path, header, bool(second))
    decimal = "," if delimiter != "," and _has_decimal_comma(second, delimiter) else "."
    if decimal == ",":
        header = tuple(_with_point(cell) for cell in header)
    return Layout(delimiter, decimal, header)


def _has_decimal_comma(line: str, delimiter: str) -> bool:
    cells = [cell for cell in line.strip().split(delimiter) if "," in cell]
    return bool(cells) and all(number_of(cell.replace(",", ".")) is not None for cell in cells)


def _with_point(cell: str) -> str:
    pointed = cell.replace(",", ".")
    return pointed if number_of(pointed) is not None else cell


def _check_header(path: Path, header: tuple[str, ...], has_rows: bool) -> None:
    if len(header) < 2:
        raise FileError(
            f"{path.name} has a single column ({header[0][:40]!r}).",
            "Use comma, semicolon or tab between columns, and at least two variables.",
        )
    if not has_rows:
        raise FileError(f"{path.name} has a header and no samples.", "Add one row per sample.")
    places: dict[str, int] = {}
    for place, name in enumerate(header):
        if not name:
            raise FileError(f"Column {place + 1} of {path.name} has no header.", "Give it a name.")
        if name in places:
            raise FileError(
                f"The header {name!r} of {path.name} stands in columns {places[name] + 1} and {place + 1}.",
                "Rename or remove one of them.",
            )
        places[name] = place


def _check_rows(path: Path, layout: Layout) -> None:
    """Refuse a row with more or fewer cells than the header; the library would fill or shift it."""
    delimiter = layout.delimiter.encode()
    expected = len(layout.header)
    with path.open("rb") as stream:
        for number, line in enumerate(stream, start=1):
            if b'"' in line:
                text = line.decode("utf-8", errors="replace")
                if text.count('"') % 2:
                    return  # a quoted cell runs over several lines: left to the library
                cells = len(next(csv.reader([text], delimiter=layout.delimiter)))
            else:
                cells = line.count(delimiter) + 1
            if cells != expected and line.strip():
                raise FileError(
                    f"Row {number} of {path.name} has {cells} values, the header {expected}.",
                    "Correct the row and import again; nothing was imported.",
                )


def _frame(path: Path, layout: Layout, roles: Roles) -> pandas.DataFrame:
    import pandas

    as_text = [name for name in roles.as_text() if name in layout.header]
    try:
        return pandas.read_csv(
            path,
            sep=layout.delimiter,
            decimal=layout.decimal,
            header=0,
            names=list(layout.header),
            index_col=False,
            dtype=dict.fromkeys(as_text, str),
            keep_default_na=False,
            na_values={name: GAP_CELLS for name in layout.header if name not in as_text},
            skipinitialspace=True,
            encoding="utf-8-sig",
            low_memory=False,
        )
    except UnicodeDecodeError as error:
        raise _not_utf8(path) from error
    except pandas.errors.ParserError as error:
        raise FileError(
            f"{path.name} cannot be cut into rows and columns ({str(error).strip()}).",
            "Correct it and import again; nothing was imported.",
        ) from error


def _not_utf8(path: Path) -> FileError:
    return FileError(f"{path.name} is not UTF-8 text.", "Save it as CSV in UTF-8.")


def _is_numeric(column: pandas.Series[Any]) -> bool:
    """Whether a column is numbers; one that is mostly numbers counts, so that its text can be named."""
    import pandas

    if pandas.api.types.is_numeric_dtype(column) and not pandas.api.types.is_bool_dtype(column):
        return True
    known = column.dropna()
    return len(known) > 0 and pandas.to_numeric(known, errors="coerce").notna().mean() > 0.5


def _numbers(frame: pandas.DataFrame, names: tuple[str, ...], path: Path) -> Floats:
    import pandas

    part = frame[list(names)]
    if all(pandas.api.types.is_numeric_dtype(kind) for kind in part.dtypes):
        return part.to_numpy(dtype=np.float64)
    for name in names:
        column = part[name]
        numbers = pandas.to_numeric(column, errors="coerce")
        wrong = np.flatnonzero(numbers.isna().to_numpy() & column.notna().to_numpy())
        if wrong.size:
            row = int(wrong[0])
            raise FileError(
                f"Row {row + 2} of {path.name} has {str(column.iloc[row])!r} in column {name!r}, "
                "among numbers.",
                "Correct the cell or leave it empty; nothing was imported.",
            )
    return part.apply(pandas.to_numeric, errors="coerce").to_numpy(dtype=np.float64)


def _texts(column: pandas.Series[Any]) -> tuple[str, ...]:
    return tuple("" if value is None or value != value else str(value).strip() for value in column)


def _table(frame: pandas.DataFrame, columns: Columns, path: Path) -> Table:
    values = _numbers(frame, columns.variables, path)
    positions = [number_of(name) for name in columns.variables] if columns.ordered else None
    properties = []
    for name in columns.properties:
        label, unit = split_unit(name)
        properties.append(PropertyColumn(label, _numbers(frame, (name,), path)[:, 0], unit))
    return Table(
        values=values,
        axis=Axis(columns.variables, None if positions is None else np.array(positions, dtype=np.float64)),
        ids=_texts(frame[columns.id]) if columns.id else tuple(str(row + 1) for row in range(len(frame))),
        name=path.stem,
        classes=tuple(ClassColumn(name, _texts(frame[name])) for name in columns.classes),
        properties=tuple(properties),
        replicates=_texts(frame[columns.replicate]) if columns.replicate else None,
    )


def write_csv(table: Table, path: Path) -> None:
    """Write a table as CSV that `read_delimited` reads back to the last digit.

    The columns: sample, lot (where there are replicates), classes, properties, variables.
    """
    header = ["sample"]
    columns: list[Any] = [table.ids]
    if table.replicates is not None:
        header.append("lot")
        columns.append(table.replicates)
    for column in table.classes:
        header.append(column.name)
        columns.append(column.values)
    for measured in table.properties:
        header.append(measured.header)
        columns.append([number_text(value) for value in measured.values])
    header += table.axis.labels
    columns += [[number_text(value) for value in values] for values in table.values.T]
    write_text(path, csv_text(header, zip(*columns, strict=True)))


def number_text(value: float) -> str:
    """The shortest text that reads back to the same number; empty for a gap."""
    return "" if value != value else repr(float(value))


def csv_text(header: Any, rows: Any) -> str:
    """Rows as CSV text with `\\n` line ends."""
    stream = io.StringIO()
    writer = csv.writer(stream, lineterminator="\n")
    writer.writerow(header)
    writer.writerows(rows)
    return stream.getvalue()
