"""Cutting a text into rows of cells: which delimiter, how numbers are written, which lines are comment."""

from __future__ import annotations

import csv
from collections import Counter
from collections.abc import Iterable, Sequence
from typing import Any

from scutcher.core.computed_once import computed_once
from scutcher.core.frozen import frozen
from scutcher.files.csv_text import SIGNS
from scutcher.files.layout.cells import PLAIN, Marks, kind_of, marks_of

DELIMITERS = (",", ";", "\t", "|")
BLANKS = " "
COMMENTS = ("#",)
SURE = 1.6
"""Score of a delimiter from which blanks are not tried."""

ENOUGH, MOST_CELLS = 60, 10_000
"""Rows that are looked at to tell the delimiter, and cells to tell how numbers are written."""


@frozen
class Row:
    """A row as found: the line it begins in, counted from 1, and its cells."""

    number: int
    cells: tuple[Any, ...]

    @computed_once
    def filled(self) -> int:
        """Cells that hold anything."""
        blank = sum([cell.isspace() for cell in self.cells if cell.__class__ is str])
        return len(self.cells) - self.cells.count(None) - self.cells.count("") - blank


@frozen
class Cut:
    """A text cut into rows: those of data with what is above and below, and the lines of comment."""

    delimiter: str
    marks: Marks
    rows: tuple[Row, ...]
    comments: tuple[Row, ...]


def cut(lines: Sequence[tuple[int, str]], delimiter: str, comment: str = "") -> tuple[list[Row], list[Row]]:
    """Rows and comments of numbered lines; empty lines give rows without cells."""
    signs = (comment,) if comment else COMMENTS
    rows: list[Row] = []
    comments: list[Row] = []
    kept: list[tuple[int, str]] = []
    for number, line in lines:
        bare = line.lstrip(" \ufeff")
        if bare.startswith(signs):
            sign = next(sign for sign in signs if bare.startswith(sign))
            comments.append(Row(number, tuple(_cells(bare[len(sign) :].strip("\r\n"), delimiter))))
        else:
            kept.append((number, line))
    if delimiter == BLANKS:
        rows = [Row(number, tuple(line.split())) for number, line in kept]
        return rows, comments
    reader = csv.reader((line for _, line in kept), delimiter=delimiter, skipinitialspace=delimiter != "\t")
    begun = 0
    try:
        for cells in reader:
            rows.append(Row(kept[begun][0], tuple(unharmed(cell.strip()) for cell in cells)))
            begun = reader.line_num
    except csv.Error:  # a cell beyond the library's limit: what was cut so far is enough to look at
        pass
    return rows, comments


def unharmed(cell: str) -> str:
    """A text without the apostrophe that keeps a spreadsheet from taking it for a formula."""
    return cell[1:] if cell[:1] == "'" and cell.lstrip("'")[:1] in SIGNS else cell


def _cells(line: str, delimiter: str) -> list[str]:
    if delimiter == BLANKS:
        return line.split()
    return [cell.strip() for cell in next(csv.reader([line], delimiter=delimiter), [])]


def best_cut(lines: Sequence[tuple[int, str]], delimiter: str = "", comment: str = "") -> Cut:
    """The most plausible way to cut some lines."""
    if delimiter:
        return _made(lines, delimiter, comment)[1]
    looked_at = lines[:ENOUGH]
    some = "".join(line for _, line in looked_at[:20])
    marks = [mark for mark in DELIMITERS if mark in some]
    scored = [(*_made(looked_at, mark, comment), mark) for mark in marks]
    if max((score for score, _, _ in scored), default=0.0) < SURE:
        scored.append((*_made(looked_at, BLANKS, comment), BLANKS))
    scored = [(score - 0.25 * (mark == BLANKS), made, mark) for score, made, mark in scored if score > 0.0]
    if not scored:
        return _made(lines, ",", comment)[1]
    _, made, mark = max(scored, key=lambda entry: entry[0])
    return made if len(lines) <= ENOUGH else _made(lines, mark, comment)[1]


def _made(lines: Sequence[tuple[int, str]], delimiter: str, comment: str) -> tuple[float, Cut]:
    """How well a delimiter cuts some lines, and what comes of it."""
    rows, comments = cut(lines, delimiter, comment)
    found = marks_of(some_cells(rows))
    made = Cut(delimiter, found or PLAIN, tuple(rows), tuple(comments))
    return _score(rows, found or Marks(",")), made


def some_cells(rows: Sequence[Row]) -> list[Any]:
    """The cells of all rows, or of rows taken evenly where there are very many."""
    total = sum(len(row.cells) for row in rows)
    step = -(-total // MOST_CELLS) if total else 1
    return [cell for row in rows[::step] for cell in row.cells]


def _score(rows: Iterable[Row], marks: Marks) -> float:
    """Share of the rows that have the usual width, and share of their cells that are numbers."""
    filled = [row for row in rows if row.filled]
    widths = Counter(len(row.cells) for row in filled)
    if not widths:
        return 0.0
    width, count = max(widths.items(), key=lambda entry: (entry[1] * (entry[0] > 1), entry[0]))
    if width < 2:
        return 0.0
    usual = [row for row in filled if len(row.cells) == width][:60]
    kinds = Counter(kind_of(cell, marks) for cell in some_cells(usual))
    numbers = (kinds["n"] + 0.5 * kinds["d"] + 0.2 * kinds["-"]) / kinds.total()
    return count / len(filled) + numbers + 0.02 * min(width, 10)


def usual_width(rows: Iterable[Row]) -> int:
    """The number of cells that most rows have."""
    widths = Counter(len(row.cells) for row in rows if row.filled)
    return max(widths.items(), key=lambda entry: (entry[1], entry[0]))[0] if widths else 0
