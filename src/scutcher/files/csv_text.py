"""Numbers, cells and rows as CSV text that reads back to the last digit."""

from __future__ import annotations

import csv
import io
from typing import Any

from scutcher.files.columns import number_of


def cell_text(value: object) -> str:
    """A cell of a text table: numbers to the last digit, texts made harmless."""
    return number_text(value) if isinstance(value, float) else harmless(str(value))


SIGNS = ("=", "+", "-", "@")
"""What a spreadsheet takes for the beginning of a formula."""

FORMULA = (*SIGNS, "\t", "\r")


def harmless(cell: str) -> str:
    """A cell that a spreadsheet would take for a formula gets an apostrophe; reading takes it off again."""
    formula = cell.lstrip("'")[:1] in FORMULA and number_of(cell) is None
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
