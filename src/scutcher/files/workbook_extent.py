"""How far the cells of a workbook reach, told before it is unpacked: one stray cell may claim billions."""

from __future__ import annotations

import re
import zipfile
from functools import lru_cache
from pathlib import Path
from typing import IO
from xml.parsers import expat

from scutcher.core.errors import FileError
from scutcher.files.arrays.stored import check_archive
from scutcher.files.workbook_records import extent_of_records, extents_of_old_records

MOST_CELLS = 50_000_000
SPARSE, SMALL = 100, 4_000_000
"""So many places for a cell that is there are too many, where there are more places than `SMALL`."""

PLACE = re.compile(rb"""\sr\s*=\s*["']([A-Za-z]{1,3})([0-9]{1,7})["']""")
OVERLAP, CHUNK = 64, 2**20
REPEATED = "table:number-columns-repeated", "table:number-rows-repeated"


def check_extent(path: Path) -> None:
    """Refuse a workbook whose cells lie too far apart; what is no workbook passes.

    Looking and reading open a file several times: while it stays the same it is gone through once.

    Raises
    ------
    FileError
    """
    kept = path.stat()
    _check_as_it_is(path, kept.st_mtime_ns, kept.st_size)


@lru_cache(maxsize=64)
def _check_as_it_is(path: Path, changed: int, size: int) -> None:
    try:
        if not zipfile.is_zipfile(path):
            _check_old_sheets(path)
            return
        with zipfile.ZipFile(path) as archive:
            check_archive(archive, path)
            for name in archive.namelist():
                if name.startswith("xl/") and name.endswith(".xml") and "sharedStrings" not in name:
                    with archive.open(name) as stream:
                        _check(path, *_extent_of_sheet(stream))
                elif name.startswith("xl/worksheets/") and name.endswith(".bin"):
                    with archive.open(name) as stream:
                        _check(path, *extent_of_records(stream.read()))
                elif name == "content.xml":
                    with archive.open(name) as stream:
                        _check_open_document(path, stream)
    except FileError:
        raise
    except Exception as error:  # damage of any kind, which zip, expat and olefile tell in many ways
        if isinstance(error, OSError) and error.errno is not None:
            raise
        # the library reads on where these do not, and ends the process where a cell lies far enough away
        raise FileError(
            f"{path.name} is damaged ({type(error).__name__}).", "Save it anew from the spreadsheet."
        ) from error


def _check_old_sheets(path: Path) -> None:
    """All sheets of an .xls, which are unpacked together."""
    rows = places = 0
    for tall, wide, there in extents_of_old_records(_old_records(path)):
        _check(path, tall, wide, there)
        rows, places = rows + tall, places + tall * wide
    if places > MOST_CELLS:
        raise FileError(
            f"The sheets of {path.name} claim {rows:,} rows and {places:,} cells together.",
            "Remove the cells that lie far away from the tables, or save each table as CSV.",
        )


def _old_records(path: Path) -> bytes:
    """The stream of records: in a compound file ([MS-CFB]) since 1993, the file itself before."""
    import olefile

    if not olefile.isOleFile(path):
        with path.open("rb") as file:
            first = file.read(1)
            return first + file.read() if first == b"\x09" else b""
    with olefile.OleFileIO(path) as compound:
        names = [name for name in ("Workbook", "Book") if compound.exists(name)]
        return bytes(compound.openstream(names[0]).read()) if names else b""


def _check(path: Path, rows: int, columns: int, there: int) -> None:
    places = rows * columns
    if places > MOST_CELLS or (places > SMALL and places > SPARSE * there):
        raise FileError(
            f"{path.name} claims {rows:,} rows × {columns:,} columns and has {there:,} cells.",
            "Remove the cells that lie far away from the table, or save the table as CSV.",
        )


def _extent_of_sheet(stream: IO[bytes]) -> tuple[int, int, int]:
    """The last row, the last column and the number of cells of a sheet."""
    rows = there = 0
    names: set[bytes] = set()
    rest = b""
    while chunk := stream.read(CHUNK):
        text = rest + chunk
        cut = max(text.rfind(b"<"), 0)
        found = PLACE.findall(text, 0, cut)
        rest = text[cut:] if cut else text[-OVERLAP:]
        there += len(found)
        names.update(column for column, _ in found)
        rows = max(rows, max((int(row) for _, row in found), default=0))
    return rows, max((_number(name) for name in names), default=0), there


def _number(column: bytes) -> int:
    """A → 1, Z → 26, AA → 27."""
    number = 0
    for letter in column.upper():
        number = 26 * number + letter - 64
    return number


class _Table:
    """Where the cells with something in them end, and how many elements say so."""

    def __init__(self, path: Path) -> None:
        self.path, self.begun = path, False
        self._begin()

    def _begin(self) -> None:
        self.row = self.last_row = self.last_column = self.there = 0
        self._column = self._times = 0
        self._filled = False

    def start(self, name: str, attributes: dict[str, str]) -> None:
        """An element begins."""
        self.begun = True
        if name == "table:table":
            self._begin()
        elif name == "table:table-row":
            self._times, self._column, self._filled = _times(attributes, REPEATED[1]), 0, False
        elif name in ("table:table-cell", "table:covered-table-cell"):
            self._column += _times(attributes, REPEATED[0])
            if "office:value-type" in attributes:
                self._filled = True
                self.there += 1
                self.last_column = max(self.last_column, self._column)

    def end(self, name: str) -> None:
        """An element ends."""
        if name == "table:table-row":
            self.row += self._times
            if self._filled:
                self.last_row = self.row
                _check(self.path, self.last_row, self.last_column, self.there)


def _times(attributes: dict[str, str], name: str) -> int:
    said = attributes.get(name, "1")
    return int(said) if said.isascii() and said.isdigit() and len(said) < 12 else 1


def _check_open_document(path: Path, stream: IO[bytes]) -> None:
    table, parser = _Table(path), expat.ParserCreate()
    parser.StartElementHandler, parser.EndElementHandler = table.start, table.end
    try:
        parser.ParseFile(stream)
    except expat.ExpatError:
        if table.begun:
            raise
        # no text at all: it is encrypted, which its library says
