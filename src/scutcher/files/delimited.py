"""CSV, TSV and other tables in text: how they are laid out is found by looking at their beginning and end."""

from __future__ import annotations

import csv
import re
from collections.abc import Sequence
from dataclasses import dataclass
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, Any

from scutcher.core.data.origin import Origin
from scutcher.core.data.table import Table
from scutcher.core.errors import FileError
from scutcher.core.progress import Watch
from scutcher.files.cell_tables import remarks_of, table_of_chosen, words_of
from scutcher.files.columns import Roles
from scutcher.files.frames import Frame, column_of, table_of_frame
from scutcher.files.layout.cells import GAP_CELLS, as_number
from scutcher.files.layout.choosing import Chosen, choose_text
from scutcher.files.layout.cutting import BLANKS, unharmed
from scutcher.files.layout.naming import Named, named
from scutcher.files.parsing import parse
from scutcher.files.safely import reading
from scutcher.files.text import encoding_of

if TYPE_CHECKING:
    import pandas

LONGEST_CELL = 131_072
"""Characters; the library that cuts lines stops at the same length."""

CELL_ENDS = re.compile(r"[,;|\s]")
HEAD, TAIL, MOST_HEAD = 1 << 18, 1 << 16, 1 << 23
LEAST_LINES = 30
"""Up to so many bytes every cell is looked at; of a larger file so much of the beginning and of the end, and
so many lines at least."""


@dataclass(frozen=True)
class Lines:
    """The numbered lines of a text, or of its beginning and end."""

    encoding: str
    lines: tuple[tuple[int, str], ...]
    whole: bool


def read_delimited(path: Path, roles: Roles | None = None, watch: Watch | None = None) -> Table:
    """Read a table in a text file.

    Parameters
    ----------
    path : Path
        Delimiter, marks of numbers, encoding, rows of title, header, units and footer, comments, whether
        samples stand in rows or columns, and whether it is a long table, are found by looking.
    roles : Roles
        Columns that the caller names, and what it says of the layout. Else the first text column is the id,
        other text columns are classes, and numeric columns with a name beside a numeric axis are properties.
    watch : function of a share from 0 to 1
        Told how much of a large file has been read; reading stops where it answers False.

    Returns
    -------
    Table
        Constant and empty variables are left out with the reason; its origin says what was not read.

    Raises
    ------
    FileError
        Stopped, missing, empty, binary, ragged, without numbers, text in a column of numbers.
    Unclear
        It can be read in several ways.
    TableError
        Two samples with one id, an infinite value, an axis that turns back.
    """
    roles = roles or Roles()
    with reading(path):
        seen = lines_of(path)
        chosen = _checked(choose_text(seen.lines, roles.reading, path.name), path)
        plain = chosen.reading.form == "table" and chosen.reading.samples == "rows"
        if seen.whole or not plain or chosen.reading.delimiter == BLANKS:
            if not seen.whole:
                chosen = choose_text(_all_lines(path, seen.encoding), roles.reading, path.name)
            return table_of_chosen(chosen, roles, path, _words(chosen, seen.encoding))
        names = named(chosen.laid, roles, chosen.reading, path.name)
        frame = _frame(path, chosen, seen, names, watch)
    return table_of_frame(frame, names.roles)


def _words(chosen: Chosen, encoding: str) -> str:
    return f"{words_of(chosen)}, {encoding}"


def lines_of(path: Path) -> Lines:
    """The lines of a text that are looked at.

    Raises
    ------
    FileError
        Missing, empty, no text.
    """
    size = path.stat().st_size
    with path.open("rb") as stream:
        start = stream.read(HEAD)
        while size > HEAD and start.count(b"\n") < LEAST_LINES and len(start) < min(MOST_HEAD, size):
            start += stream.read(HEAD)
    if not start.strip(b"\xef\xbb\xbf\xff\xfe\0 \t\r\n"):
        raise FileError(f"{path.name} is empty.", "Choose a file with a header row and one row per sample.")
    encoding = encoding_of(start, path.name)
    whole = size <= len(start)
    if not whole and start.count(b"\n") + start.count(b"\r") < 2:
        most = f"{MOST_HEAD // 2**20} MB"
        raise FileError(
            f"A line of {path.name} is longer than {most}.", "Save one row per sample, or as HDF5."
        )
    if whole or encoding.startswith("utf-16"):
        return Lines(encoding, _short_cells(_all_lines(path, encoding), path), True)
    text = start[: start.rfind(b"\n") + 1 or len(start)].decode(encoding, "replace")
    head = list(enumerate(_split(text), start=1))
    every = (*head, *_tail(path, encoding, len(text.encode(encoding)), len(head)))
    return Lines(encoding, _short_cells(every, path), False)


def _short_cells(lines: tuple[tuple[int, str], ...], path: Path) -> tuple[tuple[int, str], ...]:
    """The same lines, of which none has a cell that is too long to be one."""
    for number, line in lines:
        if len(line) > LONGEST_CELL and max(map(len, CELL_ENDS.split(line))) > LONGEST_CELL:
            raise FileError(
                f"Row {number} of {path.name} has a cell of more than {LONGEST_CELL:,} characters.",
                "See whether it is the right file, or whether the marks between its cells are missing.",
            )
    return lines


def _split(text: str) -> list[str]:
    """Lines with their ends; only the ends of lines that files have, not those that Unicode knows."""
    return (
        text.replace("\r\n", "\n").replace("\r", "\n").splitlines(keepends=True)
        if "\x0b" not in text and "\x0c" not in text
        else [f"{line}\n" for line in text.replace("\r\n", "\n").replace("\r", "\n").split("\n")]
    )


def _tail(path: Path, encoding: str, read: int, count: int) -> list[tuple[int, str]]:
    """The last lines of a file, numbered."""
    size = path.stat().st_size
    start = max(size - TAIL, read)
    number = count
    with path.open("rb") as stream:
        stream.seek(read)
        left = start - read
        while left > 0 and (block := stream.read(min(left, 1 << 22))):
            number += block.count(b"\n")
            left -= len(block)
        cut = stream.readline() if start > read else b""
        number += bool(cut)
        last = stream.read().decode(encoding, "replace")
    return [(number + place, line) for place, line in enumerate(_split(last), start=1)]


def _all_lines(path: Path, encoding: str) -> tuple[tuple[int, str], ...]:
    try:
        text = path.read_bytes().decode(encoding)
    except UnicodeDecodeError as error:
        raise _undecodable(path, encoding) from error
    return tuple(enumerate(_split(text), start=1))


def _checked(chosen: Chosen, path: Path) -> Chosen:
    """Refuse what cannot be a table, each with its sentence."""
    laid = chosen.laid
    filled = [row for row in laid.rows if row.filled]
    if not filled:
        raise FileError(f"{path.name} holds comments only.", "Choose a file with one row per sample.")
    if max(len(row.cells) for row in filled) < 2:
        shown = str(filled[0].cells[0])[:40]
        raise FileError(
            f"{path.name} has a single column ({shown!r}).",
            "Use comma, semicolon or tab between columns, and at least two variables.",
        )
    if len(filled) < 2 or not laid.parts.data:
        raise FileError(f"{path.name} has a header and no samples.", "Add one row per sample.")
    return chosen


def _frame(path: Path, chosen: Chosen, seen: Lines, names: Named, watch: Watch | None) -> Frame:
    """The rows of a large file by the library; they are counted one by one only where something looks wrong.

    The library refuses a row that is too long, but for the first, and fills one that is too short with
    gaps at its end: a file without a gap in its last column has none of these.
    """
    layout = _Layout(path, chosen, seen, names)
    cells = layout.checked_frame(watch)
    first = chosen.laid.data[0].number
    origin = Origin(
        _words(chosen, seen.encoding), chosen.reading.pairs(), remarks_of(chosen, names), names.columns
    )
    return Frame(
        cells,
        path,
        lambda row: row + first,
        names.quantity,
        names.unit,
        names.dates,
        chosen.reading.dates,
        origin,
    )


@dataclass(frozen=True)
class _Layout:
    """A large file, and how the library is told to read it."""

    path: Path
    chosen: Chosen
    seen: Lines
    names: Named

    @property
    def header(self) -> tuple[str, ...]:
        """A name for each column of the file: those that are not kept have one that nobody asks for."""
        given = dict(zip(self.names.places, self.names.header, strict=True))
        return tuple(given.get(c, f"\0{c}") for c in range(len(self.chosen.laid.header)))

    def checked_frame(self, watch: Watch | None) -> pandas.DataFrame:
        """The columns that are kept."""
        first = self.chosen.laid.data[0]
        cut_short = any((self.chosen.laid.parts.statistics, self.chosen.laid.parts.footer))
        if len(first.cells) == len(self.header) and not cut_short and not self.chosen.laid.parts.repeated:
            try:
                frame = self._parsed(list(range(first.number - 1)), watch)
            except FileError:
                self._check_rows()  # says which row it is
                raise
            last = frame.iloc[:, -1]
            if not (last.isna().any() or (last.dtype == object and (last == "").any())):
                return self._kept(frame)
        return self._kept(self._parsed(self._check_rows(), watch))

    def _kept(self, frame: pandas.DataFrame) -> pandas.DataFrame:
        kept = frame if len(self.names.header) == len(self.header) else frame[list(self.names.header)]
        number = partial(as_number, marks=self.chosen.laid.marks)
        as_text = {*self.names.roles.as_text(), *self.names.dates}
        texts = [name for name in kept.columns if name not in as_text and kept[name].dtype.kind not in "fiu"]
        made = {name: column_of(kept[name].tolist(), False, number) for name in texts}
        kept = self._unharmed(kept)
        fresh = {name: column for name, column in made.items() if column.dtype.kind == "f"}
        return kept.assign(**fresh) if fresh else kept  # numbers that the library took for texts: per cent

    def _unharmed(self, kept: pandas.DataFrame) -> pandas.DataFrame:
        """Texts without the apostrophes that were written in front of what looks like a formula."""
        texts = [name for name in kept.columns if kept[name].dtype.kind not in "fiu"]
        marked = [name for name in texts if kept[name].astype(str).str.startswith("'").any()]
        return kept.assign(**{name: kept[name].map(_unharmed, na_action="ignore") for name in marked})

    def _parsed(self, passed_over: list[int], watch: Watch | None) -> pandas.DataFrame:
        read, header = self.chosen.reading, self.header
        as_text = {*self.names.roles.as_text(), *self.names.dates} & set(header)
        how: dict[str, Any] = {
            "sep": read.delimiter,
            "decimal": read.decimal,
            "header": None,
            "names": list(header),
            "index_col": False,
            "keep_default_na": False,
            "na_values": {name: GAP_CELLS for name in header if name not in as_text}
            if as_text
            else GAP_CELLS,
            "skipinitialspace": any(f"{read.delimiter} " in line for _, line in self.seen.lines[:30]),
            "encoding": self.seen.encoding,
        }
        if read.thousands:
            how["thousands"] = read.thousands
        if passed_over:  # the library is slower even where there is nothing to pass over
            how["skiprows"] = passed_over
        if as_text:
            how["dtype"] = dict.fromkeys(as_text, str)
        try:
            return parse(self.path, how, watch)
        except UnicodeDecodeError as error:
            raise _undecodable(self.path, self.seen.encoding) from error

    def _check_rows(self) -> list[int]:
        """The lines (from 0) that are no rows of data.

        A row with more or fewer cells than the header is refused; the library would fill or shift it.
        """
        first, last = self.chosen.laid.data[0].number, self.chosen.laid.data[-1].number
        again = (
            self.chosen.laid.rows[self.chosen.laid.parts.header[-1]].cells
            if self.chosen.laid.parts.header
            else ()
        )
        delimiter, expected = self.chosen.reading.delimiter, len(self.header)
        sign = (self.chosen.reading.comment or "#").encode()
        passed_over: list[int] = []
        with self.path.open("rb") as stream:
            for number, line in enumerate(stream, start=1):
                if number < first or number > last or line.startswith(sign):
                    passed_over.append(number - 1)
                    continue
                count = line.count(delimiter.encode()) + 1
                if b'"' in line:
                    text = line.decode(self.seen.encoding, errors="replace")
                    if text.count('"') % 2:
                        return passed_over  # a quoted cell runs over several lines: left to the library
                    count = len(next(csv.reader([text], delimiter=delimiter)))
                if count != expected and line.strip():
                    raise FileError(
                        f"Row {number} of {self.path.name} has {count} values, the header {expected}.",
                        "Correct the row and import again; nothing was imported.",
                    )
                if again and line.startswith(str(again[0]).encode()[:8]) and _same(line, again, self):
                    passed_over.append(number - 1)
        return passed_over


def _unharmed(cell: object) -> object:
    return unharmed(cell) if isinstance(cell, str) else cell


def _same(line: bytes, cells: Sequence[str], layout: _Layout) -> bool:
    """Whether a line is the header once more."""
    text = line.decode(layout.seen.encoding, errors="replace")
    return [
        cell.strip() for cell in next(csv.reader([text], delimiter=layout.chosen.reading.delimiter))
    ] == list(cells)


def _undecodable(path: Path, encoding: str) -> FileError:
    return FileError(f"{path.name} begins as {encoding} text and is not.", "Save it as CSV in UTF-8.")
