"""CSV and TSV: one row per sample, a header row, numeric headers make an ordered axis."""

from __future__ import annotations

import csv
import io
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING, Any

import numpy as np

from scutcher.core.data.table import Table
from scutcher.core.errors import FileError
from scutcher.core.progress import Watch
from scutcher.files.columns import Roles, number_of
from scutcher.files.frames import table_of_frame
from scutcher.files.parsing import parse
from scutcher.files.safely import reading
from scutcher.files.text import encoding_of

if TYPE_CHECKING:
    import pandas

GAP_CELLS = ["", "NA", "N/A", "NaN", "nan", "-", "?", "null"]
DELIMITERS = (",", ";", "\t")
LOOKED_AT = 1 << 16  # bytes of the beginning that are looked at for what kind of file it is


@dataclass(frozen=True)
class Layout:
    """How the text is cut into cells: found by looking, and shown to whoever asks.

    Attributes
    ----------
    delimiter, decimal, encoding : str
    header : tuple of str
        The header cells; 1…p where the file has no header.
    has_header : bool
    first_line : int
        The line number of the header, or of the first sample where there is none.
    first_row_fits : bool
        Whether the first row has as many cells as the header.
    spaced : bool
        Whether blanks follow the delimiter: they do not belong to the cells.
    """

    delimiter: str
    decimal: str
    encoding: str
    header: tuple[str, ...]
    has_header: bool
    first_line: int
    first_row_fits: bool
    spaced: bool


def read_delimited(path: Path, roles: Roles | None = None, watch: Watch | None = None) -> Table:
    """Read a CSV or TSV file.

    Parameters
    ----------
    path : Path
        Delimiter (comma, semicolon, tab), decimal comma, encoding (UTF-8, UTF-16, else Windows-1252),
        lines of comment (they begin with #) and whether there is a header are found by looking.
    roles : Roles
        Columns that the caller names. Else the first text column is the id, other text columns are
        classes, and numeric columns with a name beside a numeric axis are properties.
    watch : function of a share from 0 to 1
        Told how much of a large file has been read; reading stops where it answers False.

    Returns
    -------
    Table
        Constant and empty variables are left out with the reason.

    Raises
    ------
    FileError
        Stopped, missing, empty, binary, ragged, without numbers, text in a column of numbers.
    TableError
        Two samples with one id, an infinite value, an axis that turns back.
    """
    with reading(path):
        layout = layout_of(path)
        frame = _checked_frame(path, layout, roles or Roles(), watch)
    return table_of_frame(frame, roles or Roles(), path, layout.first_line + layout.has_header)


def layout_of(path: Path) -> Layout:
    """Look at the beginning of a file."""
    with reading(path), path.open("rb") as stream:
        start = stream.read(LOOKED_AT)
    encoding = encoding_of(start, path.name)
    if not start.strip():
        raise FileError(f"{path.name} is empty.", "Choose a file with a header row and one row per sample.")
    with path.open(encoding=encoding, newline="") as stream:
        try:
            numbered = ((n, line) for n, line in enumerate(stream, start=1) if _is_row(line))
            number, first = next(numbered, (0, ""))
            second = next(numbered, (0, ""))[1]
        except UnicodeDecodeError as error:
            raise _undecodable(path, encoding) from error
    if not number:
        raise FileError(f"{path.name} holds comments only.", "Choose a file with one row per sample.")
    delimiter = max(DELIMITERS, key=first.count)
    cells = tuple(cell.strip() for cell in next(csv.reader([first], delimiter=delimiter)))
    decimal = "," if delimiter != "," and _has_decimal_comma(second, delimiter) else "."
    if decimal == ",":
        cells = tuple(_with_point(cell) for cell in cells)
    has_header = not _is_data(cells)
    if has_header:
        _check_header(path, cells, bool(second))
    header = cells if has_header else tuple(str(place + 1) for place in range(len(cells)))
    fits = len(next(csv.reader([second or first], delimiter=delimiter))) == len(header)
    spaced = f"{delimiter} " in first + second
    return Layout(delimiter, decimal, encoding, header, has_header, number, fits, spaced)


def _is_row(line: str) -> bool:
    return bool(line.strip()) and not line.lstrip().startswith("#")


def _is_data(cells: tuple[str, ...]) -> bool:
    """Whether a first row is a sample: numbers that cannot be an axis, for they turn back."""
    numbers = [number_of(cell) for cell in cells]
    if len(cells) < 3 or None in numbers:
        return False
    steps = np.diff(np.array(numbers, dtype=np.float64))
    return not ((steps > 0).all() or (steps < 0).all())


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


def _check_rows(path: Path, layout: Layout) -> list[int]:
    """Refuse a row with more or fewer cells than the header; the library would fill or shift it.

    Returns
    -------
    list of int
        The lines (from 0) that are comments or stand before the first row.
    """
    expected = len(layout.header)
    passed_over: list[int] = []
    if layout.encoding.startswith("utf-16"):
        return list(range(layout.first_line - 1))
    delimiter = layout.delimiter.encode()
    with path.open("rb") as stream:
        for number, line in enumerate(stream, start=1):
            if line[:1] == b"#" or number < layout.first_line:
                passed_over.append(number - 1)
                continue
            if b'"' in line:
                text = line.decode(layout.encoding, errors="replace")
                if text.count('"') % 2:
                    return passed_over  # a quoted cell runs over several lines: left to the library
                cells = len(next(csv.reader([text], delimiter=layout.delimiter)))
            else:
                cells = line.count(delimiter) + 1
            if cells != expected and line.strip():
                raise FileError(
                    f"Row {number} of {path.name} has {cells} values, the header {expected}.",
                    "Correct the row and import again; nothing was imported.",
                )
    return passed_over


def _checked_frame(path: Path, layout: Layout, roles: Roles, watch: Watch | None) -> pandas.DataFrame:
    """Read the rows; they are counted one by one only where something looks wrong.

    The library refuses a row that is too long, but for the first, and fills one that is too short with
    gaps at its end: a file without a gap in its last column has none of these.
    """
    heading = list(range(layout.first_line - 1))
    if layout.first_row_fits:
        try:
            frame = _frame(path, layout, roles, heading, watch)
        except FileError:
            _check_rows(path, layout)  # says which row it is
            raise
        last = frame.iloc[:, -1]
        if not (last.isna().any() or (last.dtype == object and (last == "").any())):
            return frame
    comments = _check_rows(path, layout)
    return _frame(path, layout, roles, comments, watch)


def _frame(
    path: Path, layout: Layout, roles: Roles, passed_over: list[int], watch: Watch | None
) -> pandas.DataFrame:
    as_text = [name for name in roles.as_text() if name in layout.header]
    how: dict[str, Any] = {
        "sep": layout.delimiter,
        "decimal": layout.decimal,
        "header": 0 if layout.has_header else None,
        "names": list(layout.header),
        "index_col": False,
        "keep_default_na": False,
        "na_values": {name: GAP_CELLS for name in layout.header if name not in as_text}
        if as_text
        else GAP_CELLS,
        "skipinitialspace": layout.spaced,
        "encoding": layout.encoding,
    }
    if passed_over:  # the library is slower even where there is nothing to pass over
        how["skiprows"] = passed_over
    if as_text:
        how["dtype"] = dict.fromkeys(as_text, str)
    try:
        return parse(path, how, watch)
    except UnicodeDecodeError as error:
        raise _undecodable(path, layout.encoding) from error


def _undecodable(path: Path, encoding: str) -> FileError:
    return FileError(f"{path.name} begins as {encoding} text and is not.", "Save it as CSV in UTF-8.")


def cell_text(value: object) -> str:
    """A cell of a text table: numbers to the last digit, texts made harmless."""
    return number_text(value) if isinstance(value, float) else harmless(str(value))


def harmless(cell: str) -> str:
    """A cell that a spreadsheet would take for a formula gets an apostrophe in front."""
    formula = cell[:1] in ("=", "+", "-", "@", "\t", "\r") and number_of(cell) is None
    return f"'{cell}" if formula else cell


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
