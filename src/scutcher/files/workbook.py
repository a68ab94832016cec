"""Workbooks: the sheets that are named, or those that belong together."""

from __future__ import annotations

import re
from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import replace
from pathlib import Path
from typing import Any

from scutcher.core.data.table import Table
from scutcher.core.errors import FileError, InputError, Unclear
from scutcher.files.cell_tables import table_of_chosen, words_of
from scutcher.files.columns import Roles
from scutcher.files.joining import SheetTable, together
from scutcher.files.layout.cells import PLAIN, marks_of
from scutcher.files.layout.choosing import choose_rows
from scutcher.files.layout.cutting import Row
from scutcher.files.layout.reading import reading_of_pairs
from scutcher.files.safely import quiet_library, reading
from scutcher.files.workbook_extent import MOST_CELLS, check_extent

SUFFIXES = (".xlsx", ".ods", ".xls", ".xlsm", ".xlsb")
RANGE = re.compile(r"([A-Z]{1,3})([0-9]{1,7}):([A-Z]{1,3})([0-9]{1,7})")


def sheet_names(path: Path) -> list[str]:
    """The sheets of a workbook, in order."""
    return list(_workbook(path).sheet_names)


def rows_of_sheet(path: Path, reference: str) -> list[Row]:
    """The rows of a sheet, or of a range of it, as they stand there."""
    sheet, cells = split_range(reference)
    top = _corners(cells)[1] if cells else 1
    rows = _rows(_workbook(path), sheet, path, cells)
    return [Row(top + place, tuple(row)) for place, row in enumerate(rows)]


def read_workbook(path: Path, roles: Roles | None = None) -> Table:
    """Read the sheets that are named, put together as it is said; else those that belong together.

    Sheets with the same columns and other samples are put under one another, with the sheet as a class; those
    with the same samples and other columns are put beside one another by id. What is left is named in the
    table's origin.

    Raises
    ------
    FileError
        Not a workbook, no such sheet, nothing in it that is a table.
    Unclear
    """
    roles = roles or Roles()
    book = _workbook(path)
    wanted = roles.reading.sheets or ((roles.sheet,) if roles.sheet else ())
    for reference in wanted:
        sheet = split_range(reference)[0]
        if sheet not in book.sheet_names:
            raise FileError(f"{path.name} has no sheet {sheet!r}.", f"It has {', '.join(book.sheet_names)}.")
    found: list[SheetTable] = []
    troubles: list[InputError] = []
    several = len(wanted or book.sheet_names) > 1
    named: set[str] = set()
    for reference in wanted or book.sheet_names:
        try:
            table = _table_of_sheet(book, reference, path, roles, named if several else None)
        except InputError as error:
            if wanted or isinstance(error, Unclear) or error.mends:
                raise
            troubles.append(error)
            table = None
        if table is not None:
            found.append(SheetTable(reference, table))
    if not found:
        if troubles:
            raise troubles[0]
        what = "range" if any(split_range(name)[1] for name in wanted) else "sheet"
        raise FileError(
            f"{path.name} has no {what} with a header and at least one row and two columns.",
            "Choose another.",
        )
    missing = next((name for name in roles.named() if several and name not in named), None)
    if missing is not None:
        raise FileError(f"No sheet of {path.name} has a column {missing!r}.", "Check the name.")
    unread = (
        [name for name in book.sheet_names if name not in {one.name for one in found}] if not wanted else []
    )
    table, used = together(found, roles.reading.join, unread, bool(wanted))
    reading = replace(reading_of_pairs(table.origin.reading), sheets=tuple(used), join=roles.reading.join)
    return replace(table, origin=replace(table.origin, reading=reading.pairs()))


def _table_of_sheet(
    book: Any, reference: str, path: Path, roles: Roles, named: set[str] | None
) -> Table | None:
    """The table in a sheet or a range of it; None where there is nothing that could be one.

    Where there are several sheets, roles hold for those columns that it has: they are added to `named`.
    """
    sheet, cells = split_range(reference)
    rows, remarks = sheet_rows(book, sheet, path, cells)
    filled = [row for row in rows if row.filled]
    if len(filled) < 2 or max(row.filled for row in filled) < 2:
        return None
    said = roles.reading
    marks = marks_of((c for row in filled for c in row.cells), said.decimal, said.thousands)
    chosen = choose_rows(rows, marks or PLAIN, said, f"the sheet {sheet!r} of {path.name}")
    if not chosen.laid.parts.data:
        return None
    if named is not None:
        named |= set(chosen.laid.header) & set(roles.named())
        roles = roles.among(chosen.laid.header)
    chosen = replace(chosen, reading=replace(chosen.reading, sheets=(reference,)))
    words = words_of(chosen).replace("decimal point, ", "")
    table = table_of_chosen(chosen, roles, path, f"sheet {sheet}, {words}")
    return table.remarked(*remarks)


def sheet_rows(book: Any, name: str, path: Path, cells: str = "") -> tuple[list[Row], tuple[str, ...]]:
    """The rows of a sheet or of a range of it, of its largest table where several stand side by side."""
    rows = _rows(book, name, path, cells)
    top = _corners(cells)[1] if cells else 1
    width = max((len(row) for row in rows), default=0)
    used = [any(_at(row, c) not in ("", None) for row in rows) for c in range(width)]
    blocks: list[list[int]] = []
    for column in range(width):
        if not used[column]:
            continue
        if blocks and blocks[-1][-1] == column - 1:
            blocks[-1].append(column)
        else:
            blocks.append([column])
    blocks = _joined(rows, blocks)
    if not blocks:
        return [], ()
    best = max(blocks, key=lambda block: sum(_at(row, c) not in ("", None) for row in rows for c in block))
    others = [block for block in blocks if block is not best]
    remarks = tuple(
        f"Columns {letters(block[0])} to {letters(block[-1])} beside the table: not read" for block in others
    )
    return [Row(top + place, tuple(_at(row, c) for c in best)) for place, row in enumerate(rows)], remarks


def _joined(rows: list[list[Any]], blocks: list[list[int]]) -> list[list[int]]:
    """Columns that an empty one separates are one table where they are filled in the same rows."""
    joined: list[list[int]] = []
    for block in blocks:
        if joined and _filled_rows(rows, block) == _filled_rows(rows, joined[-1]):
            joined[-1] = joined[-1] + block
        else:
            joined.append(block)
    return joined


def _filled_rows(rows: list[list[Any]], block: list[int]) -> set[int]:
    """The rows in which at least half of some columns hold anything."""
    return {
        place
        for place, row in enumerate(rows)
        if sum(_at(row, c) not in ("", None) for c in block) >= 0.5 * len(block)
    }


def letters(column: int) -> str:
    """The letters of a column, counted from 0."""
    found = ""
    column += 1
    while column:
        column, rest = divmod(column - 1, 26)
        found = chr(ord("A") + rest) + found
    return found


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


def _workbook(path: Path) -> Any:
    import python_calamine

    with reading(path):
        path.open("rb").close()
        check_extent(path)
        with _sound(path, path.name, "is not a workbook that can be read"):
            return python_calamine.CalamineWorkbook.from_path(str(path))


def _rows(book: Any, name: str, path: Path, cells: str = "") -> list[list[Any]]:
    what = f"The sheet {name!r} of {path.name}"
    with reading(path), _sound(path, what, "cannot be read"):
        sheet = book.get_sheet_by_name(name)
        if sheet.total_height * sheet.total_width > MOST_CELLS:
            raise FileError(f"{what} has too many cells.", "Save it as CSV.")
        rows: list[list[Any]] = sheet.to_python(skip_empty_area=False)
    if cells:
        left, top, right, bottom = _corners(cells)
        rows = [row[left - 1 : right] for row in rows[top - 1 : bottom]]
    return rows


@contextmanager
def _sound(path: Path, what: str, trouble: str) -> Iterator[None]:
    """Turn what the library says into a sentence, and its panics, which are no exceptions of Python's."""
    import python_calamine

    try:
        with quiet_library():
            yield
    except FileError:
        raise
    except (python_calamine.CalamineError, python_calamine.PasswordError, ValueError) as error:
        raise FileError(f"{what} {trouble} ({error}).", "Save it anew.") from error
    except BaseException as error:
        of_system = isinstance(error, OSError) and error.errno is not None
        if of_system or isinstance(error, (KeyboardInterrupt, SystemExit, MemoryError)):
            raise
        raise FileError(f"{path.name} is damaged.", "Save it anew from the spreadsheet.") from error


def _at(row: list[Any], place: int) -> Any:
    return row[place] if place < len(row) else ""
