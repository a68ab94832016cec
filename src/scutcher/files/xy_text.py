"""Text files of one spectrum each, x and y in columns; the file's name is the sample's id."""

from __future__ import annotations

import io
from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path

import numpy as np

from scutcher.core.arrays import in_strict_order
from scutcher.core.data.constant_variables import leave_out_empty
from scutcher.core.data.origin import Origin
from scutcher.core.data.table import Table
from scutcher.core.errors import FileError
from scutcher.core.frozen import frozen
from scutcher.core.progress import Watch, tell
from scutcher.files.layout.cells import Marks, as_number, marks_of
from scutcher.files.layout.cutting import BLANKS
from scutcher.files.layout.headers import quantity_named
from scutcher.files.safely import reading
from scutcher.files.spectra import Spectrum, table_of
from scutcher.files.text import text_of

SUFFIXES = (".xy", ".txt", ".dat", ".asc", ".csv", ".tsv", ".prn", ".dpt")
LOOKED_AT = (1 << 10, 1 << 14)
"""Bytes of the beginning that are looked at: the few, and where they do not tell, the many."""

LEAST = 3
"""Pairs in a row that a spectrum has at least."""


@frozen
class _Shape:
    """Where the pairs stand: their first line (from 0), what they are cut at, how numbers are written."""

    first: int
    delimiter: str
    marks: Marks
    columns: int


def read_xy_files(
    paths: Sequence[Path], name: str, resample: bool = False, watch: Watch | None = None
) -> Table:
    """Read files of x and y as the samples of one table.

    Raises
    ------
    FileError
        A line that is not two numbers, axes that differ.
    """
    spectra, remarks = [], []
    shape: _Shape | None = None
    for place, path in enumerate(paths):
        tell(watch, place / len(paths))
        spectrum, left, shape = _read(path, shape)
        spectra.append(spectrum)
        remarks += left
    table = table_of(spectra, name, resample)
    told = tuple(dict.fromkeys(remarks))
    shown = told if len(told) <= 6 else (*told[:6], f"… and {len(told) - 6} more like this")
    return leave_out_empty(replace(table, origin=Origin("x and y in columns", (), shown)))


def is_xy(path: Path) -> bool:
    """Whether a file looks like one: its lines of numbers are pairs whose first numbers rise or fall."""
    third = path.suffix.lower() not in (".csv", ".tsv")
    try:
        return any(shape_of(text_of(path, most=most), third) is not None for most in LOOKED_AT)
    except FileError:
        return False


def shape_of(text: str, third: bool = True) -> _Shape | None:
    """Where the pairs stand in a text; None where it holds none. `third`: a third column may stand beside."""
    lines = text.splitlines()
    for delimiter in ("\t", ";", ",", BLANKS):
        if delimiter not in text:
            continue
        cells = [_cells(line, delimiter) for line in lines[:-1] or lines]
        for width in (2, 3) if third else (2,):
            found = _run(cells, width, delimiter)
            if found is not None:
                return found
    return None


def _number(cell: str, marks: Marks) -> float | None:
    """The finite number in a cell."""
    value = as_number(cell, marks)
    return value if value is not None and np.isfinite(value) else None


def _cells(line: str, delimiter: str) -> tuple[str, ...]:
    """The cells of a line without those that are empty; none for a comment."""
    bare = line.strip()
    if bare.startswith("#"):
        return ()
    return tuple(
        cell for part in bare.split(None if delimiter == BLANKS else delimiter) if (cell := part.strip())
    )


def _run(cells: list[tuple[str, ...]], width: int, delimiter: str) -> _Shape | None:
    """The longest run of lines of so many numbers, if it reaches to the end, but for a footer."""
    marks = marks_of([cell for row in cells if len(row) == width for cell in row][:2000]) or Marks(",")
    count = first = run = 0
    for place, row in enumerate(cells):
        if len(row) == width and all(_number(cell, marks) is not None for cell in row):
            run += 1
            if run > count:
                count, first = run, place - run + 1
        elif row:
            run = 0
    rows = [row for row in cells[first:] if len(row) == width and _number(row[0], marks) is not None]
    after = sum(1 for row in cells[first:] if row) - len(rows)
    x = np.array([_number(row[0], marks) for row in rows], dtype=np.float64)
    if count < LEAST or after > max(3, 0.2 * count) or not in_strict_order(x):
        return None
    return _Shape(first, delimiter, marks, width)


def read_xy(path: Path) -> tuple[Spectrum, list[str]]:
    """Read one spectrum, and what of the file was not read; `#` begins a comment.

    Lines before the first pair are a heading, lines of words after the last a footer.
    """
    spectrum, left, _ = _read(path, None)
    return spectrum, left


def _read(path: Path, before: _Shape | None) -> tuple[Spectrum, list[str], _Shape]:
    """Read one spectrum; the shape of the file before is tried first: those of one instrument are alike."""
    with reading(path):
        text = text_of(path)
    if before is not None:
        lines = text.splitlines()
        values = _fast(lines, before) if _is_like(lines, before) else None
        if values is not None and len(values) >= LEAST and in_strict_order(values[:, 0]):
            return _spectrum(path, lines, values, [], before)
    shape = shape_of(text[: LOOKED_AT[0]]) or shape_of(text[: LOOKED_AT[1]]) or shape_of(text)
    if shape is None:
        shape = _first_pair(text, path)
    lines = text.splitlines()
    values = _fast(lines, shape)
    left: list[str] = []
    if values is None:
        values, left = _line_by_line(lines, shape, path)
    return _spectrum(path, lines, values, left, shape)


def _is_like(lines: Sequence[str], shape: _Shape) -> bool:
    """Whether the pairs begin on the same line as in another file: it is one, the line above is not."""

    def is_pair(line: str) -> bool:
        cells = _cells(line, shape.delimiter)
        return len(cells) == shape.columns and all(_number(cell, shape.marks) is not None for cell in cells)

    if len(lines) <= shape.first or not is_pair(lines[shape.first]):
        return False
    return shape.first == 0 or not is_pair(lines[shape.first - 1])


def _spectrum(
    path: Path, lines: Sequence[str], values: np.ndarray, left: list[str], shape: _Shape
) -> tuple[Spectrum, list[str], _Shape]:
    """The spectrum of the pairs, what was not read, and how they stood."""
    if shape.columns == 3:
        left = [*left, "A third column beside x and y: not read"]
    if len(values) < 2:
        raise FileError(
            f"{path.name} has no two columns of numbers.", "Choose files with x and y in columns."
        )
    quantity, unit = _axis_named(lines[: shape.first], shape)
    return Spectrum(path.stem, values[:, 0], values[:, 1], quantity, unit), left, shape


def _first_pair(text: str, path: Path) -> _Shape:
    """Where the first pair stands in a file that does not look like one: to say what is wrong with it."""
    for place, line in enumerate(text.splitlines()):
        for delimiter in ("\t", ";", ",", BLANKS):
            cells = _cells(line, delimiter)
            marks = marks_of(cells) or Marks(",")
            if len(cells) == 2 and all(_number(cell, marks) is not None for cell in cells):
                return _Shape(place, delimiter, marks, 2)
    raise FileError(f"{path.name} has no two columns of numbers.", "Choose files with x and y in columns.")


def _fast(lines: Sequence[str], shape: _Shape) -> np.ndarray | None:
    """All pairs by the library's parser; None where something else stands among them."""
    import pandas

    if shape.marks.thousands:
        return None
    text = "\n".join(lines[shape.first :])
    separator = r"\s+" if shape.delimiter == BLANKS else shape.delimiter
    try:
        frame = pandas.read_csv(
            io.StringIO(text), sep=separator, header=None, decimal=shape.marks.decimal, comment="#",
            names=range(shape.columns), index_col=False, dtype=np.float64, skipinitialspace=True,
        )  # fmt: skip
    except (ValueError, pandas.errors.ParserError, OverflowError):
        return None
    values = frame.to_numpy()[:, :2]
    return values if np.isfinite(values).all() else None


def _line_by_line(lines: Sequence[str], shape: _Shape, path: Path) -> tuple[np.ndarray, list[str]]:
    """The pairs, where a footer of words stands below them; anything else among them is refused."""
    pairs: list[tuple[float, float]] = []
    other: list[tuple[int, str]] = []
    for number, line in enumerate(lines[shape.first :], start=shape.first + 1):
        bare = line.split("#", 1)[0].strip()
        if not bare:
            continue
        cells = _cells(bare, shape.delimiter)
        numbers = [_number(cell, shape.marks) for cell in cells]
        if len(cells) == shape.columns and None not in numbers:
            if other:
                break
            pairs.append((float(numbers[0] or 0.0), float(numbers[1] or 0.0)))
        else:
            other.append((number, bare))
    else:
        if all(not any(c.isdigit() for c in text.split()[0]) for _, text in other) and len(other) <= 5:
            names = [
                f"{path.name}, row {number}: {text[:30]!r} below the data, not read" for number, text in other
            ]
            return np.array(pairs), names
    number, text = other[0]
    raise FileError(
        f"Row {number} of {path.name} is not two numbers: {text[:40]!r}.",
        "Correct it and import again; nothing was imported.",
    )


def _axis_named(heading: Sequence[str], shape: _Shape) -> tuple[str, str]:
    """Quantity and unit of x, where the last line above the data names the columns."""
    filled = [line.strip().lstrip("#").strip() for line in heading if line.strip()]
    if not filled:
        return "", ""
    cells = _cells(filled[-1], shape.delimiter)
    return quantity_named(cells[0]) if 2 <= len(cells) <= 6 else ("", "")
