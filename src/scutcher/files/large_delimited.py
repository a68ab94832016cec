"""A large table in text, read by the library: how it is told what was found, and what it would pass over."""

from __future__ import annotations

import csv
from collections.abc import Sequence
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, Any

from scutcher.core.errors import FileError
from scutcher.core.frozen import frozen
from scutcher.core.progress import Watch
from scutcher.files.frames import column_of
from scutcher.files.layout.cells import GAP_CELLS, as_number
from scutcher.files.layout.choosing import Chosen
from scutcher.files.layout.cutting import unharmed
from scutcher.files.layout.naming import Named
from scutcher.files.parsing import parse
from scutcher.files.text_lines import Lines, undecodable

if TYPE_CHECKING:
    import pandas


@frozen
class LargeTable:
    """A large file, and how the library is told to read it.

    The library refuses a row that is too long, but for the first, and fills one that is too short with
    gaps at its end: a file without a gap in its last column has none of these. So rows are counted one by
    one only where something looks wrong.
    """

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
        texts = [name for name in _texts(kept) if name not in as_text]
        made = {name: column_of(kept[name].tolist(), False, number) for name in texts}
        kept = self._unharmed(kept)
        fresh = {name: column for name, column in made.items() if column.dtype.kind == "f"}
        return kept.assign(**fresh) if fresh else kept  # numbers that the library took for texts: per cent

    def _unharmed(self, kept: pandas.DataFrame) -> pandas.DataFrame:
        """Texts without the apostrophes that were written in front of what looks like a formula."""
        marked = [name for name in _texts(kept) if kept[name].astype(str).str.startswith("'").any()]
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
            raise undecodable(self.path, self.seen.encoding) from error

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


def _texts(frame: pandas.DataFrame) -> list[str]:
    """The columns that hold no numbers."""
    return [
        str(name) for name, kind in zip(frame.columns, frame.dtypes, strict=True) if kind.kind not in "fiu"
    ]


def _unharmed(cell: object) -> object:
    return unharmed(cell) if isinstance(cell, str) else cell


def _same(line: bytes, cells: Sequence[str], layout: LargeTable) -> bool:
    """Whether a line is the header once more."""
    text = line.decode(layout.seen.encoding, errors="replace")
    return [
        cell.strip() for cell in next(csv.reader([text], delimiter=layout.chosen.reading.delimiter))
    ] == list(cells)
