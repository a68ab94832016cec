"""XLSX and ODS: one sheet or a range of it, by itself the first that holds a table; first row the header."""

from __future__ import annotations

import re
from datetime import date, datetime, time, timedelta
from pathlib import Path
from typing import Any

from scutcher.core.data.table import Table
from scutcher.core.errors import FileError
from scutcher.files.columns import Roles
from scutcher.files.delimited import GAP_CELLS
from scutcher.files.frames import table_of_frame
from scutcher.files.safely import reading

MOST_CELLS = 50_000_000
RANGE = re.compile(r"([A-Z]{1,3})([0-9]{1,7}):([A-Z]{1,3})([0-9]{1,7})")


def sheet_names(path: Path) -> list[str]:
    """The sheets of a workbook, in order."""
    return list(_workbook(path).sheet_names)


def read_workbook(path: Path, roles: Roles | None = None) -> Table:
    """Read one sheet, or a range of it: `roles.sheet`, or the first with at least two rows and columns.

    Raises
    ------
    FileError
        Not a workbook, no such sheet, nothing in it that is a table.
    """
    book = _workbook(path)
    roles = roles or Roles()
    wanted, cells = split_range(roles.sheet or "")
    if wanted and wanted not in book.sheet_names:
        raise FileError(f"{path.name} has no sheet {wanted!r}.", f"It has {', '.join(book.sheet_names)}.")
    for name in [wanted] if wanted else book.sheet_names:
        rows = _rows(book, name, path, cells)
        if len(rows) > 1 and len(rows[0]) > 1:
            top = _corners(cells)[1] if cells else 1
            return table_of_frame(_frame(rows, path, roles), roles, path, top + 1)
    raise FileError(
        f"{path.name} has no {'range' if cells else 'sheet'} with a header and at least one row and two "
        "columns.",
        "Choose another.",
    )


def split_range(reference: str) -> tuple[str, str]:
    """Sheet and range of a reference like `Sheet1!B3:K40`; the range is "" where it names a whole sheet."""
    sheet, mark, cells = reference.rpartition("!")
    cells = cells.strip().upper()
    return (sheet, cells) if mark and is_range(cells) else (reference, "")


def is_range(cells: str) -> bool:
    """Whether a text is a range of cells, its first corner above and left of the second."""
    if not RANGE.fullmatch(cells.upper()):
        return False
    left, top, right, bottom = _corners(cells.upper())
    return left <= right and 1 <= top <= bottom


def _corners(cells: str) -> tuple[int, int, int, int]:
    """Left, top, right, bottom of a range, counted from one."""
    found = RANGE.fullmatch(cells)
    assert found is not None
    first, top, last, bottom = found.groups()
    return _column(first), int(top), _column(last), int(bottom)


def _column(letters: str) -> int:
    place = 0
    for letter in letters:
        place = 26 * place + ord(letter) - ord("A") + 1
    return place


def first_rows(path: Path, sheet: str | None) -> tuple[tuple[str, ...], list[list[str]], str]:
    """The header, the first rows as text, and the sheet that is read where none is named."""
    book = _workbook(path)
    sheet, cells = split_range(sheet or "")
    for name in [sheet] if sheet in book.sheet_names else book.sheet_names:
        rows = _rows(book, name, path, cells)
        if len(rows) > 1 and len(rows[0]) > 1:
            texts = [[_text(cell) for cell in row[:30]] for row in rows[:30]]
            return tuple(_text(cell) for cell in rows[0] if _text(cell)), texts, name
    return (), [], ""


def _workbook(path: Path) -> Any:
    import python_calamine

    with reading(path):
        path.open("rb").close()
        try:
            return python_calamine.CalamineWorkbook.from_path(str(path))
        except (python_calamine.CalamineError, python_calamine.PasswordError) as error:
            raise FileError(
                f"{path.name} is not a workbook that can be read ({error}).", "Save it anew."
            ) from error
        except BaseException as error:  # the library's own panics are not exceptions of Python's
            if isinstance(error, (KeyboardInterrupt, SystemExit)):
                raise
            raise FileError(f"{path.name} is damaged.", "Save it anew from the spreadsheet.") from error


def _rows(book: Any, name: str, path: Path, cells: str = "") -> list[list[Any]]:
    import python_calamine

    try:
        sheet = book.get_sheet_by_name(name)
        if sheet.total_height * sheet.total_width > MOST_CELLS:
            raise FileError(f"The sheet {name!r} of {path.name} has too many cells.", "Save it as CSV.")
        rows: list[list[Any]] = sheet.to_python(skip_empty_area=not cells)
    except (python_calamine.CalamineError, ValueError) as error:
        raise FileError(
            f"The sheet {name!r} of {path.name} cannot be read ({error}).", "Save it anew."
        ) from error
    if cells:
        left, top, right, bottom = _corners(cells)
        rows = [row[left - 1 : right] for row in rows[top - 1 : bottom]]
    return [row for row in rows if any(cell != "" for cell in row)]


def _frame(rows: list[list[Any]], path: Path, roles: Roles) -> Any:
    import pandas

    width = max(len(row) for row in rows)
    header = [_text(cell) for cell in rows[0]] + [""] * (width - len(rows[0]))
    kept = [
        place for place in range(width) if header[place] or any(_at(row, place) != "" for row in rows[1:])
    ]
    seen: dict[str, int] = {}
    for place in kept:
        if not header[place]:
            raise FileError(f"Column {place + 1} of {path.name} has no header.", "Give it a name.")
        if header[place] in seen:
            raise FileError(
                f"The header {header[place]!r} of {path.name} stands in columns "
                f"{seen[header[place]] + 1} and {place + 1}.",
                "Rename or remove one of them.",
            )
        seen[header[place]] = place
    columns = {}
    for place in kept:
        cells = [_at(row, place) for row in rows[1:]]
        if header[place] in roles.as_text():
            columns[header[place]] = pandas.Series([_text(cell) for cell in cells], dtype=str)
        else:
            columns[header[place]] = pandas.Series([_value(cell) for cell in cells]).infer_objects()
    return pandas.DataFrame(columns)


def _at(row: list[Any], place: int) -> Any:
    return row[place] if place < len(row) else ""


def _value(cell: Any) -> Any:
    """A number, a text, or None for a gap."""
    if isinstance(cell, bool):
        return str(cell)
    if isinstance(cell, (int, float)):
        return float(cell)
    text = _text(cell)
    return None if text in GAP_CELLS else text


def _text(cell: Any) -> str:
    """A cell as a spreadsheet shows it: whole numbers without a point."""
    if isinstance(cell, float) and cell.is_integer() and abs(cell) < 1e15:
        return str(int(cell))
    if isinstance(cell, (datetime, date, time, timedelta)):
        return str(cell)
    return str(cell).strip()
