"""Two-column text files, one spectrum in each; the file's name is the sample's id."""

from __future__ import annotations

import re
from collections.abc import Sequence
from pathlib import Path

import numpy as np

from scutcher.core.data.constant_variables import leave_out_unusable
from scutcher.core.data.table import Table
from scutcher.core.errors import FileError
from scutcher.files.columns import number_of
from scutcher.files.safely import reading
from scutcher.files.spectra import Spectrum, table_of
from scutcher.files.text import text_of

CUT = re.compile(r"[;\t]\s*|\s*,\s+|\s+")
SUFFIXES = (".xy", ".txt", ".dat", ".asc", ".csv", ".tsv", ".prn", ".dpt")


def read_xy_files(paths: Sequence[Path], name: str, resample: bool = False) -> Table:
    """Read files of x and y as the samples of one table.

    Raises
    ------
    FileError
        A line that is not two numbers, axes that differ.
    """
    return leave_out_unusable(table_of([read_xy(path) for path in paths], name, resample))


def is_xy(path: Path) -> bool:
    """Whether a file looks like one: its first lines of numbers are pairs."""
    try:
        lines = text_of(path, most=1 << 14).splitlines()[:60]
    except FileError:
        return False
    pairs = [pair for line in lines[:-1] or lines if (pair := _pair(line)) is not None]
    return len(pairs) > 2 and len(pairs) >= 0.5 * len([line for line in lines if line.strip()])


def read_xy(path: Path) -> Spectrum:
    """Read one spectrum; lines before the first pair are taken for a heading, `#` begins a comment."""
    with reading(path):
        text = text_of(path)
    pairs: list[tuple[float, float]] = []
    for number, line in enumerate(text.splitlines(), start=1):
        bare = line.split("#", 1)[0].strip()
        if not bare:
            continue
        pair = _pair(bare)
        if pair is not None:
            pairs.append(pair)
        elif pairs:
            raise FileError(
                f"Row {number} of {path.name} is not two numbers: {bare[:40]!r}.",
                "Correct it and import again; nothing was imported.",
            )
    if len(pairs) < 2:
        raise FileError(
            f"{path.name} has no two columns of numbers.", "Choose files with x and y in columns."
        )
    values = np.array(pairs)
    return Spectrum(path.stem, values[:, 0], values[:, 1])


def _pair(line: str) -> tuple[float, float] | None:
    cells = [cell for cell in CUT.split(line.strip()) if cell]
    if len(cells) == 1 and line.count(",") == 1:
        cells = line.split(",")
    if len(cells) != 2:
        return None
    numbers = [number_of(cell.strip().replace(",", ".")) for cell in cells]
    return None if None in numbers else (float(numbers[0] or 0.0), float(numbers[1] or 0.0))
