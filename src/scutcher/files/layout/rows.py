"""Which rows of a file are title, header, units, data and footer."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Sequence

import numpy as np

from scutcher.core.arrays import Floats, in_strict_order
from scutcher.core.frozen import frozen
from scutcher.files.layout.cells import Marks, as_number, kind_of
from scutcher.files.layout.cutting import Row, usual_width
from scutcher.files.layout.headers import unit_named

STATISTICS = re.compile(
    r"(?:col(?:umn)?\.? |row |overall |grand )?(?:mean|means|average|avg\.?|mittel(?:wert)?|moyenne|media|"
    r"s\.?d\.?|std\.?|"
    r"st\.? ?dev\.?|stdev[.sp]*|std\.? ?dev\.?|"
    r"standard deviation|standardabweichung|variance|var|rsd|%rsd|rsd ?%|"
    r"cv|%cv|cv ?%|min\.?|max\.?|minimum|maximum|median|sum|total|count|n|se|sem|range)"
    r"(?:\s*[:=(±].*)?",
    re.IGNORECASE,
)
UNIT_CELL = re.compile(
    r"[\[(]?(?:%|‰|[a-zA-Zµμ°Å]{1,6}(?:[ .·*]?[a-zA-Zµμ°]{0,4})?"
    r"(?:[ ]?[/^·*²³⁻¹\-]+[ ]?[a-zA-Zµ0-9%⁻¹²³\-]{1,6})*|"
    r"a\.?u\.?|arb\. ?units?|log\(?1/[RT]\)?|1/cm|-|)[\])]?(?: ?[a-zA-Z%]{1,6})?"
)
ID_WORDS = (
    "sample",
    "id",
    "name",
    "code",
    "label",
    "specimen",
    "lot",
    "no",
    "nr",
    "number",
    "#",
    "spectrum",
    "file",
)
MOST_STATISTICS, ENOUGH, WIDE_CELLS = 12, 30, 10_000
"""Rows of means and the like that are looked for at the end, and rows that are looked at closely."""


@frozen
class Parts:
    """The rows of a table: places in the list of rows that was looked at.

    Attributes
    ----------
    title : rows above the header
    header : one or two rows; () where there is none
    units : the row of units
    data : the rows of data, in order
    statistics : rows of means and the like below them
    footer : what else stands below
    repeated : headers that stand once more among the data
    lacks_first : whether the header has no cell for the first column
    """

    title: tuple[int, ...] = ()
    header: tuple[int, ...] = ()
    units: int | None = None
    data: tuple[int, ...] = ()
    statistics: tuple[int, ...] = ()
    footer: tuple[int, ...] = ()
    repeated: tuple[int, ...] = ()
    lacks_first: bool = False


def parts_of(rows: Sequence[Row], marks: Marks) -> Parts:
    """Sort rows by what they are.

    Parameters
    ----------
    rows : as cut, with empty ones
    marks : how numbers are written
    """
    width = usual_width(rows)
    filled = [place for place, row in enumerate(rows) if row.filled]
    if not filled or width < 1:
        return Parts()
    body = _body(rows, filled, width)
    low = body[min(3, len(body) // 2) :]
    enough = min(ENOUGH, max(8, WIDE_CELLS // width))
    some = low[:: -(-len(low) // enough)]
    kinds = {place: [kind_of(c, marks) for c in rows[place].cells] for place in {*body[:9], *some}}
    numeric = _numeric(kinds, some, width)
    title = [place for place in filled if place < body[0]]
    header, units, data = _top(rows, kinds, body, numeric, marks)
    if not header and data and _headless_but_named(rows, title, width):
        header = (title.pop(),)  # a header with a cell less than the rows: the first column has no name
        lacks = True
    else:
        lacks = False
    title += [
        place for place in body if place < (data[0] if data else body[0]) and place not in (*header, units)
    ]
    footer = [place for place in filled if place > body[-1]]
    repeated = [place for place in data if header and rows[place].cells == rows[header[-1]].cells]
    data = [place for place in data if place not in repeated]
    statistics: list[int] = []
    while len(data) > 2 and len(statistics) < MOST_STATISTICS and _is_statistic(rows, data):
        statistics.insert(0, data.pop())
    return Parts(
        tuple(title),
        header,
        units,
        tuple(data),
        tuple(statistics),
        tuple(footer),
        tuple(repeated),
        lacks,
    )


def _body(rows: Sequence[Row], filled: Sequence[int], width: int) -> list[int]:
    """From the first to the last row that is as wide as most and not nearly empty."""

    def much(place: int) -> bool:
        return rows[place].filled > max(1, 0.34 * width) or (width <= 2 and len(rows[place].cells) == width)

    def wide(place: int) -> bool:
        return abs(len(rows[place].cells) - width) <= (0 if width < 4 else 1)

    first = next((place for place in filled if much(place) and wide(place)), filled[0])
    last = next((place for place in reversed(filled) if much(place)), filled[-1])
    if len(rows[first].cells) == width - 1 and last > first:
        first = next((place for place in filled if place > first and much(place) and wide(place)), first)
    return [place for place in filled if first <= place <= last]


def _numeric(kinds: dict[int, list[str]], low: Sequence[int], width: int) -> tuple[bool, ...]:
    """The columns whose cells are mostly numbers, by rows below the first few."""
    found = []
    for column in range(width):
        counts = Counter(kinds[place][column] for place in low if column < len(kinds[place]))
        known = counts["n"] + counts["t"] + counts["d"]
        found.append(known > 0 and counts["n"] > 0.5 * known)
    return tuple(found)


def _top(
    rows: Sequence[Row],
    kinds: dict[int, list[str]],
    body: Sequence[int],
    numeric: Sequence[bool],
    marks: Marks,
) -> tuple[tuple[int, ...], int | None, list[int]]:
    """Header, units, and the rows of data."""
    columns = [column for column, is_number in enumerate(numeric) if is_number]
    run = 0
    while run < min(len(body), 6) and _share(kinds[body[run]], columns, "td") > 0.5:
        run += 1
    top, rest = list(body[:run]), list(body[run:])
    if not top:
        axis = bool(columns) and _numbers_that_are_an_axis(rows, kinds, body, columns, marks)
        if columns and not axis and not _is_named(rows, kinds, body):
            return (), None, rest
        top, rest = rest[:1], rest[1:]
    units = None
    if len(top) > 1 and _are_units(rows[top[-1]], kinds[top[-1]], columns):
        units = top.pop()
    elif len(rest) > 2 and _are_units(rows[rest[0]], kinds[rest[0]], columns):
        units, rest = rest[0], rest[1:]
    header: tuple[int, ...] = (top[-1],)
    others = _others(numeric)
    alone = len(rest) > 2 and bool(others) and _share(kinds[rest[0]], others, "-") == 1.0
    if alone and _numbers_that_are_an_axis(rows, kinds, rest, columns, marks):
        header, rest = (top[-1], rest[0]), rest[1:]  # the true header, below words or counted columns
    return header, units, rest


def _is_named(rows: Sequence[Row], kinds: dict[int, list[str]], body: Sequence[int]) -> bool:
    """Whether a first row with numbers in it is a header all the same: its texts are unlike those below."""
    first = body[0]
    texts = [column for column, kind in enumerate(kinds[first]) if kind == "t"]
    if not texts or len(body) < 2:
        return bool(texts)

    def shape(place: int, column: int) -> str:
        cells = rows[place].cells
        text = str(cells[column]) if column < len(cells) else ""
        return re.sub(r"[^\W\d_]+", "a", re.sub(r"\d+", "0", text)) if re.search(r"\d", text) else text

    return not all(shape(first, c) in {shape(place, c) for place in body[1:30]} for c in texts)


def _others(numeric: Sequence[bool]) -> list[int]:
    return [column for column, is_number in enumerate(numeric) if not is_number]


def _share(kinds: Sequence[str], columns: Sequence[int], which: str) -> float:
    """Share of some columns whose cells are of some kinds."""
    if not columns:
        return 0.0
    return sum(column < len(kinds) and kinds[column] in which for column in columns) / len(columns)


def _are_units(row: Row, kinds: Sequence[str], columns: Sequence[int]) -> bool:
    """Whether a row holds units: no numbers, and its texts over numbers look like units."""
    texts = [str(row.cells[c]).strip() for c in columns if c < len(kinds) and kinds[c] == "t"]
    if any(kinds[c] == "n" for c in columns if c < len(kinds)):
        return False
    like = [unit_named(text) is not None or UNIT_CELL.fullmatch(text) is not None for text in texts]
    return bool(texts) and sum(like) >= 0.8 * len(like) and max(map(len, texts)) <= 14


def _numbers_that_are_an_axis(
    rows: Sequence[Row],
    kinds: dict[int, list[str]],
    body: Sequence[int],
    columns: Sequence[int],
    marks: Marks,
) -> bool:
    """Whether the numbers of a first row rise or fall strictly, unlike those of the rows below."""

    def numbers(place: int) -> Floats:
        found = [as_number(rows[place].cells[c], marks) for c in columns if c < len(rows[place].cells)]
        return np.array([number for number in found if number is not None], dtype=np.float64)

    if len(columns) < 2 or _share(kinds[body[0]], columns, "n") < 0.5:
        return False
    first = numbers(body[0])
    if len(first) < 2 or not in_strict_order(first):
        return False
    below = [found for found in map(numbers, body[1:6]) if len(found) > 1]
    if not below or not all(map(in_strict_order, below)):
        return True
    if len(first) < 3:
        return False
    # the rows below rise too: an axis has even or much larger steps
    steps = np.diff(first)
    even = np.ptp(steps) <= 1e-3 * abs(steps.mean())
    return bool(even) or abs(first[-1] - first[0]) > 5.0 * max(abs(row[-1] - row[0]) for row in below)


def _headless_but_named(rows: Sequence[Row], title: Sequence[int], width: int) -> bool:
    """Whether the row above the data has a name for all columns but the first."""
    return bool(title) and width > 2 and len(rows[title[-1]].cells) == width - 1 == rows[title[-1]].filled


def _is_statistic(rows: Sequence[Row], data: Sequence[int]) -> bool:
    """Whether the last row holds means or the like: its first word says so, and stands nowhere above.

    A word that stands above as well is a class.
    """
    cells = rows[data[-1]].cells
    column = next((c for c, cell in enumerate(cells) if cell is not None and str(cell).strip()), None)
    if column is None or STATISTICS.fullmatch(str(cells[column]).strip()) is None:
        return False
    return all(_cell(rows[place], column) != _cell(rows[data[-1]], column) for place in data[:-1])


def _cell(row: Row, column: int) -> str:
    return str(row.cells[column]).strip().lower() if column < len(row.cells) else ""
