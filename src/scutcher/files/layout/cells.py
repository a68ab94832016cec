"""What a cell holds: a number in one of the usual ways of writing it, a date, a text, or nothing."""

from __future__ import annotations

import re
from collections.abc import Iterable, Sequence
from datetime import date, datetime, time, timedelta
from typing import Any

from scutcher.core.frozen import frozen

GAP_CELLS = ["", "NA", "N/A", "NaN", "nan", "-", "?", "null", "n/a", "na", "NULL", "#N/A", "--", "."]
GAPS = frozenset(GAP_CELLS)
LIKE_NUMBER = re.compile(r"[+\-−]?[\d.,][\d.,' \u00a0\u202f]*(?:[eEdD][+\-−]?\d+)?\s*%?")
PERCENT = "%"

is_plain = re.compile(r"[+\-]?[0-9]+(?:\.[0-9]+)?").fullmatch
"""Whether a text is a number as nearly all are written."""


@frozen
class Marks:
    """How numbers are written: the decimal mark, and what stands between thousands ("" for nothing)."""

    decimal: str = "."
    thousands: str = ""


PLAIN = Marks()


def as_number(cell: Any, marks: Marks = PLAIN) -> float | None:
    """The number in a cell, without its percent sign; None for anything else."""
    if isinstance(cell, bool) or cell is None:
        return None
    if isinstance(cell, (int, float)):
        return float(cell)
    if not isinstance(cell, str) or "_" in cell:
        return None
    if marks.decimal == "." and is_plain(cell):
        return float(cell)
    text = cell.strip()
    if marks.thousands and marks.thousands in text:
        if not _grouped(text, marks):
            return None
        text = text.replace(marks.thousands, "")
    if marks.decimal == ",":
        if "." in text:
            return None
        text = text.replace(",", ".")
    try:
        return float(text)
    except ValueError:
        pass
    text = text.replace("−", "-").removesuffix(PERCENT).strip().replace("D", "e").replace("d", "e")
    if not text or not (text[-1].isdigit() or text[-1] == "."):
        return None
    try:
        return float(text)
    except ValueError:
        return None


def _grouped(text: str, marks: Marks) -> bool:
    """Whether the marks between thousands stand where they belong."""
    whole = text.removesuffix(PERCENT).strip().lstrip("+-−").partition(marks.decimal)[0]
    first, *others = whole.split(marks.thousands)
    return 1 <= len(first) <= 3 and all(len(group) == 3 and group.isdigit() for group in others)


def kind_of(cell: Any, marks: Marks = PLAIN) -> str:
    """`-` for a gap, `n` for a number, `d` for a date, `t` for a text."""
    if marks.decimal == "." and cell.__class__ is str and is_plain(cell):
        return "n"
    if cell is None or (isinstance(cell, str) and cell.strip() in GAPS):
        return "-"
    if isinstance(cell, (datetime, date, time, timedelta)):
        return "d"
    if as_number(cell, marks) is not None:
        return "n"
    return "d" if isinstance(cell, str) and is_date(cell) else "t"


def marks_of(cells: Iterable[Any], decimal: str = "", thousands: str | None = None) -> Marks | None:
    """How the numbers among some cells are written; None where it cannot be told from them.

    A mark that is followed by other than three digits is decimal, and so is the later of two; one that
    stands twice in a number is between thousands. `1,234` alone could be either.
    """
    points = commas = both = doubtful = 0
    european = grouped = spaced = apostrophes = twice_point = 0
    for cell in cells:
        if not isinstance(cell, str):
            continue
        if points > 9 and "," not in cell and " " not in cell and "'" not in cell and cell.count(".") < 2:
            continue  # nothing to be learned from it
        if not LIKE_NUMBER.fullmatch(cell.strip()):
            continue
        text = cell.strip()
        if text.count(".") == 2 and is_date(text):
            continue
        spaced += bool(re.search(r"\d[ \u00a0\u202f]\d{3}(?!\d)", text))
        apostrophes += bool(re.search(r"\d'\d{3}(?!\d)", text))
        comma, point = text.rfind(","), text.rfind(".")
        if comma >= 0 and point >= 0:
            both, european = both + 1, european + (comma > point)
        elif text.count(",") > 1:
            grouped += 1
        elif text.count(".") > 1:
            twice_point += 1
        elif comma >= 0:
            after = re.match(r"\d*", text[comma + 1 :])
            three = after is not None and len(after.group()) == 3 and 0 < len(text[:comma].lstrip("+-−")) <= 3
            three = three and not text.lstrip("+-−").startswith("0")
            commas, doubtful = commas + (not three), doubtful + three
        elif point >= 0:
            points += 1
    between = " " if spaced else "'" if apostrophes else ""
    found: Marks | None
    if european or twice_point or (commas and not points and not both):
        found = Marks(",", "." if european or twice_point else between)
    elif both or grouped or (doubtful and points):
        found = Marks(".", ",")
    elif doubtful and not commas:
        found = None
    else:
        found = Marks(".", between)
    if decimal or thousands is not None:
        first = decimal or (found.decimal if found else "." if thousands == "," else ",")
        if thousands is not None:
            second = thousands
        elif found:
            second = found.thousands
        else:
            second = "," if decimal == "." else ""
        if second == first:
            second = ""
        return Marks(first, second)
    return found


DATES = (
    (re.compile(r"(\d{4})-(\d{1,2})-(\d{1,2})"), "ymd"),
    (re.compile(r"(\d{4})/(\d{1,2})/(\d{1,2})"), "ymd"),
    (re.compile(r"(\d{4})\.(\d{1,2})\.(\d{1,2})"), "ymd"),
    (re.compile(r"(\d{1,2})\.(\d{1,2})\.(\d{4})"), "dmy"),
    (re.compile(r"(\d{1,2})[ \-]([A-Za-zäéûç]{3,9})\.?[ \-](\d{4})"), "dMy"),
    (re.compile(r"([A-Za-z]{3,9})\.? (\d{1,2}),? (\d{4})"), "Mdy"),
    (re.compile(r"(\d{1,2})[/\-](\d{1,2})[/\-](\d{4})"), "?"),
)
"""Ways to write a day; "?" is told by a column only: which of its first two numbers passes twelve."""

CLOCK = re.compile(
    r"(?:[T ]\s*(\d{1,2}):(\d{2})(?::(\d{2}(?:[.,]\d+)?))?\s*([AaPp][Mm])?(?:Z|[+\-]\d{2}:?\d{2})?)?"
)
CLOCK_ONLY = re.compile(r"([01]?\d|2[0-3]):([0-5]\d)(?::([0-5]\d(?:[.,]\d+)?))?")
"""A time of day without a day."""

MONTHS = ("jan", "feb", "mar", "apr", "may", "jun", "jul", "aug", "sep", "oct", "nov", "dec")


def is_date(text: str) -> bool:
    """Whether a text is a day, perhaps with a time of day, or a time of day alone."""
    return _cut(text.strip()) is not None or CLOCK_ONLY.fullmatch(text.strip()) is not None


def hours_of(cells: Sequence[Any]) -> list[float] | None:
    """The cells of a column of times of day as hours, NaN for a gap; None where they are something else."""
    found: list[float] = []
    for cell in cells:
        clock = CLOCK_ONLY.fullmatch(cell.strip()) if isinstance(cell, str) else None
        if isinstance(cell, time):
            found.append(cell.hour + cell.minute / 60 + cell.second / 3600)
        elif clock is not None:
            seconds = float((clock.group(3) or "0").replace(",", "."))
            found.append(int(clock.group(1)) + int(clock.group(2)) / 60 + seconds / 3600)
        elif kind_of(cell) == "-":
            found.append(float("nan"))
        else:
            return None
    return found


def _cut(text: str) -> tuple[str, tuple[str, ...], float] | None:
    """Order of the parts, the parts, and the hours of the day."""
    for pattern, order in DATES:
        found = pattern.match(text)
        if found is None:
            continue
        clock = CLOCK.fullmatch(text[found.end() :])
        if clock is None:
            return None
        hours = 0.0
        if clock.group(1):
            hours = int(clock.group(1)) + int(clock.group(2)) / 60
            hours += float((clock.group(3) or "0").replace(",", ".")) / 3600
            half = (clock.group(4) or "").lower()
            hours += 12.0 * (half == "pm" and hours < 12) - 12.0 * (half == "am" and hours >= 12)
        return order, found.groups(), hours
    return None


def days_of(cells: Sequence[Any], dates: str = "") -> tuple[list[float], date] | str:
    """The cells of a column of dates as days since the first of January of the earliest year.

    Parameters
    ----------
    cells : texts, dates, or gaps
    dates : "day-first", "month-first" or ""

    Returns
    -------
    list of float with NaN for a gap, and the day they count from; or what is wrong with them
    """
    cut = [None if kind_of(cell) == "-" else _parts(cell) for cell in cells]
    if any(parts is None and kind_of(cell) != "-" for parts, cell in zip(cut, cells, strict=True)):
        return "not all of them are dates"
    known = [parts for parts in cut if parts is not None]
    unclear = [parts for parts in known if parts[0] == "?"]
    order = {"day-first": "dmy", "month-first": "mdy"}.get(dates, "")
    if unclear and not order:
        first = any(int(parts[1][0]) > 12 for parts in unclear)
        second = any(int(parts[1][1]) > 12 for parts in unclear)
        if first == second:
            return "day and month cannot be told apart"
        order = "dmy" if first else "mdy"
    try:
        moments = [None if p is None else _moment(p[0] if p[0] != "?" else order, p[1], p[2]) for p in cut]
    except ValueError:
        return "one of them is no day of the calendar"
    start = datetime(min(moment.year for moment in moments if moment is not None), 1, 1)
    days = [
        float("nan") if moment is None else (moment - start).total_seconds() / 86400.0 for moment in moments
    ]
    return days, start.date()


def _parts(cell: Any) -> tuple[str, tuple[str, ...], float] | None:
    if isinstance(cell, datetime):
        clock = cell.hour + cell.minute / 60 + (cell.second + cell.microsecond / 1e6) / 3600
        return "ymd", (str(cell.year), str(cell.month), str(cell.day)), clock
    if isinstance(cell, date):
        return "ymd", (str(cell.year), str(cell.month), str(cell.day)), 0.0
    return _cut(cell.strip()) if isinstance(cell, str) else None


def _moment(order: str, parts: tuple[str, ...], hours: float) -> datetime:
    named = dict(zip(order, parts, strict=True))
    month = named.get("m")
    if month is None:
        month = str(MONTHS.index(named["M"][:3].lower()) + 1)
    return datetime(int(named["y"]), int(month), int(named["d"])) + timedelta(hours=hours)
