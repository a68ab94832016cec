"""What a file looks like before it is read: its first rows, its sheets or matrices."""

from __future__ import annotations

from pathlib import Path
from typing import Literal

from scutcher.core.errors import InputError
from scutcher.core.frozen import frozen
from scutcher.files.arrays.loading import LOADERS, matrix_names
from scutcher.files.arrays.raw_numbers import SUFFIXES as RAW
from scutcher.files.arrays.raw_numbers import sizes_in_words
from scutcher.files.formats import FORMATS
from scutcher.files.layout.cutting import best_cut, cut
from scutcher.files.layout.laid import text_of as cell_text
from scutcher.files.layout.reading import Reading
from scutcher.files.text import text_of
from scutcher.files.workbook import SUFFIXES as BOOKS
from scutcher.files.workbook import rows_of_sheet, sheet_names

SHOWN, WIDE = 60, 40
"""Rows and columns that are shown."""


@frozen
class Found:
    """A file as found.

    Attributes
    ----------
    kind : how it is laid out: cells in text, in sheets, named arrays, or another way that leaves no choice
    rows : (number, cells) of the first rows, for text and sheets
    delimiter : what stands between the cells of a text
    lines : the beginning of a text that has no cells
    sheets : the sheets of a workbook, or the matrices of a file of arrays
    """

    kind: Literal["text", "sheets", "arrays", "numbers", "other"]
    rows: tuple[tuple[int, tuple[str, ...]], ...] = ()
    lines: str = ""
    sheets: tuple[str, ...] = ()
    delimiter: str = ""


def look_at(path: Path, reading: Reading | None = None) -> Found:
    """Look at a file; what cannot be looked at is shown empty, reading it says why."""
    reading = reading or Reading()
    suffix = path.suffix.lower()
    try:
        if suffix in BOOKS:
            sheets = tuple(sheet_names(path))
            name = next((s for s in reading.sheets if s.rpartition("!")[0] or s in sheets), sheets[0])
            cells = rows_of_sheet(path, name)[:SHOWN]
            shown = [(row.number, tuple(cell_text(c) for c in row.cells[:WIDE])) for row in cells]
            return Found("sheets", tuple(shown), "", sheets)
        if suffix in RAW:
            return Found("numbers", lines=sizes_in_words(path))
        if suffix in LOADERS:
            return Found("arrays", sheets=matrix_names(path))
        if any(suffix in known.suffixes and known.cells for known in FORMATS):
            rows, delimiter = _rows(path, reading)
            return Found("text", rows, delimiter=delimiter)
        if suffix in (".npy",) or path.is_dir():
            return Found("other")
        return Found("other", lines=text_of(path, 1 << 14))
    except InputError:
        return Found("other")


def _rows(path: Path, reading: Reading) -> tuple[tuple[tuple[int, tuple[str, ...]], ...], str]:
    """The first rows of a text, comments among them, and what they are cut at."""
    text = text_of(path, 1 << 18)
    lines = list(enumerate(text.replace("\r\n", "\n").replace("\r", "\n").split("\n")[:SHOWN], start=1))
    delimiter = reading.delimiter or best_cut([(number, f"{line}\n") for number, line in lines]).delimiter
    rows, comments = cut([(number, f"{line}\n") for number, line in lines], delimiter, reading.comment)
    shown = sorted((*rows, *comments), key=lambda row: row.number)
    while shown and not shown[-1].filled:
        shown.pop()
    return tuple((row.number, tuple(map(cell_text, row.cells[:WIDE]))) for row in shown), delimiter
