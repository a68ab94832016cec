"""Cells with their header, units and rows of data, samples in rows; and how plausible that is."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from typing import Any

import numpy as np

from scutcher.core.arrays import Floats, in_strict_order
from scutcher.core.computed_once import computed_once
from scutcher.core.frozen import frozen
from scutcher.files.layout.cells import Marks, as_number, kind_of
from scutcher.files.layout.cutting import Row
from scutcher.files.layout.headers import (
    families,
    is_axis,
    names_a_quantity,
    quantity_named,
    smoothness,
    sounds_like_axis,
)
from scutcher.files.layout.reading import Reading
from scutcher.files.layout.rows import ID_WORDS, Parts, parts_of

SEEN = 40
"""Rows and columns that are looked at to tell how a table stands."""

CLEAR, SOME = 1.0, 2.0
"""How much better the better reading is where nobody is asked; what a table with an axis scores at least."""


COMMON = ("time", "depth", "temperature", "potential", "energy")
"""Quantities that are the axis of a signal as often as a variable that was written down beside others."""


@frozen
class Laid:
    """A grid of cells of which it is known what each row is."""

    rows: tuple[Row, ...]
    marks: Marks
    parts: Parts
    turned: bool = False

    @computed_once
    def header(self) -> tuple[str, ...]:
        """The names of the columns; of two rows of them the lower, where it has one; 1…p without a header."""
        if not self.parts.header:
            return self._counted()
        names = [" ".join(text_of(cell).split()) for cell in self.rows[self.parts.header[-1]].cells]
        if self.parts.lacks_first:
            names.insert(0, "")
        width = max((len(self.rows[place].cells) for place in self.parts.data), default=0)
        while len(names) > width > 0 and not names[-1]:
            names.pop()
        for place in self.names_above:
            upper = [text_of(cell) for cell in self.rows[place].cells]
            names = [name or (upper[c] if c < len(upper) else "") for c, name in enumerate(names)]
        return tuple(names)

    @computed_once
    def names_above(self) -> tuple[int, ...]:
        """The rows above the header that name columns which it leaves without a name."""
        lowest = [text_of(cell) for cell in self.rows[self.parts.header[-1]].cells]
        above = [*self.parts.title[-2:], *self.parts.header[:-1]]
        found = []
        for place in reversed(above):
            row = self.rows[place]
            names = [c for c, cell in enumerate(row.cells[: len(lowest)]) if text_of(cell) and not lowest[c]]
            if names and (place in self.parts.header or len(names) == row.filled > 1):
                found.append(place)
        return tuple(found)

    def _counted(self) -> tuple[str, ...]:
        """Names where the file has none: the columns of numbers are counted."""
        width = max((len(self.rows[place].cells) for place in self.parts.data), default=0)
        names: list[str] = []
        number = classes = 0
        for column in range(width):
            kinds = [kind_of(cell, self.marks) for cell in self.column(column)]
            if kinds.count("t") > 0.5 * len(kinds):
                cells = [text_of(cell) for cell in self.column(column)]
                alone = len(set(cells)) == len(cells) and "sample" not in names
                classes += not alone
                names.append("sample" if alone else "class" if classes == 1 else f"class {classes}")
            else:
                number += 1
                names.append(str(number))
        return tuple(names)

    @computed_once
    def data(self) -> tuple[Row, ...]:
        """The rows of data."""
        return tuple(self.rows[place] for place in self.parts.data)

    def column(self, place: int) -> list[Any]:
        """The cells of a column."""
        return [row.cells[place] if place < len(row.cells) else None for row in self.data]

    def numbers(self, columns: Sequence[int], most: int = SEEN) -> Floats:
        """Some columns of the first rows as numbers, NaN where they are none."""
        found = [
            [as_number(row.cells[c], self.marks) if c < len(row.cells) else None for c in columns]
            for row in self.data[:most]
        ]
        return np.array(
            [[np.nan if v is None else v for v in row] for row in found], dtype=np.float64
        ).reshape(len(found), len(columns))


def text_of(cell: Any) -> str:
    """A cell as a spreadsheet shows it: whole numbers without a point."""
    if cell is None:
        return ""
    if isinstance(cell, float) and cell.is_integer() and abs(cell) < 1e15:
        return str(int(cell))
    return str(cell).strip()


def laid(rows: Sequence[Row], marks: Marks, said: Reading, turned: bool = False) -> Laid:
    """Sort rows by what they are, or as it is said."""
    parts = parts_of(rows, marks)
    by_number = {row.number: place for place, row in enumerate(rows)}
    if not turned and (said.header is not None or said.first or said.last or said.units is not None):
        parts = _as_said(rows, parts, by_number, said)
    return Laid(tuple(rows), marks, parts, turned)


def _as_said(rows: Sequence[Row], parts: Parts, by_number: dict[int, int], said: Reading) -> Parts:
    """The parts with those rows changed that somebody has named by their number."""
    filled = [place for place, row in enumerate(rows) if row.filled]
    header = parts.header
    if said.header is not None:
        header = tuple(by_number[number] for number in said.header if number in by_number)
    units = parts.units
    if said.units is not None:
        units = by_number.get(said.units)
    elif units is not None and header and units <= header[-1]:
        units = None
    low = max((*header, *(() if units is None else (units,))), default=-1) + 1
    if not header and said.header is not None:
        low = min((*parts.header, *parts.data), default=0)  # what stands above stays a title
    first, last = said.first or 0, said.last or 10**12
    if said.header is None and said.first:
        above = [place for place in filled if rows[place].number < said.first]
        header = tuple(place for place in header if place in above) or tuple(above[-1:])
        low = max(header, default=-1) + 1
    data = [place for place in filled if place >= low and first <= rows[place].number <= last]
    dropped = (*parts.statistics, *parts.footer, *parts.repeated) if not said.last else ()
    data = [place for place in data if place not in dropped and place != units]
    title = tuple(place for place in filled if place < (header or tuple(data) or (0,))[0])
    lacks = parts.lacks_first and header == parts.header
    return replace(parts, title=title, header=header, units=units, data=tuple(data), lacks_first=lacks)


def only_counts(found: Laid, column: int) -> bool:
    """Whether a column holds the numbers of the rows, from 0 or 1."""
    numbers = [as_number(cell, found.marks) for cell in found.column(column)]
    start = numbers[0] if numbers else None
    return (
        len(numbers) > 1 and start in (0.0, 1.0) and numbers == [start + row for row in range(len(numbers))]
    )


def turned_rows(found: Laid, most: int | None = None) -> list[Row]:
    """The rows from the header to the last of the data as columns; numbered by the columns they were.

    At most so many rows of data, to see how it would look. Mere numbers of the rows in front of an axis are
    left behind.
    """
    skip = 0
    if len(found.header) > 2 and only_counts(found, 0) and sounds_like_axis(found.header[1]):
        skip = 1
    if most is not None and len(found.parts.data) > most:
        found = replace(found, parts=replace(found.parts, data=found.parts.data[:most], statistics=()))
    places = sorted(
        {*found.parts.header, *found.parts.data, *found.parts.statistics, *_maybe(found.parts.units)}
    )
    body = [found.rows[place] for place in places]
    width = max((len(row.cells) for row in body), default=0)
    if found.parts.lacks_first:
        body[0] = Row(body[0].number, ("", *body[0].cells))
    return [
        Row(column + 1, tuple(row.cells[column] if column < len(row.cells) else None for row in body))
        for column in range(skip, width)
    ]


def _maybe(place: int | None) -> tuple[int, ...]:
    return () if place is None else (place,)


def axis_columns(found: Laid) -> tuple[tuple[int, ...], Floats, str, str]:
    """The columns whose headers are an axis, their positions, quantity and unit; () where there is none."""
    header = found.header
    numbers = [as_number(name, found.marks if "," in name else Marks()) for name in header]
    plain = tuple(c for c, number in enumerate(numbers) if number is not None and found.parts.header)
    if plain:
        places = np.array([numbers[c] for c in plain], dtype=np.float64)
        corner = next(
            (name for c, name in enumerate(header) if c not in plain and sounds_like_axis(name)), ""
        )
        return plain, places, *(quantity_named(corner) if found.turned else ("", ""))
    found_families = families(header)
    if sum(len(family.columns) for family in found_families) > 2.5 * len(
        found_families[0].columns if found_families else ()
    ):
        return (), np.zeros(0), "", ""  # a landscape: the numbers stand for more than one axis
    for family in found_families:
        if is_axis(family, found.numbers(family.columns)):
            return family.columns, family.positions, family.quantity, family.unit
    return (), np.zeros(0), "", ""


def plausibility(found: Laid) -> float:
    """How much speaks for samples standing in the rows as they are laid."""
    data, header = found.data, found.header
    if len(data) < 1 or not header:
        return -10.0
    columns, places, quantity, _ = axis_columns(found)
    steps = np.diff(places)
    score = 0.0
    if len(columns) > 2 and in_strict_order(places):
        if not quantity and (np.abs(steps) == 1.0).all():  # mere counts are no axis, others may be
            score += 0.5 if places[0] in (0.0, 1.0) else 1.5
        else:
            score += 3.0 if len(columns) >= 5 else SOME
        score += 1.5 * (quantity != "")
        some = list(columns[:: max(len(columns) // SEEN, 1)]) if len(columns) > 3 * SEEN else list(columns)
        values = found.numbers(some)
        score += _likeness(values) + (smoothness(values) < 0.1)
    elif len(columns) > 2:
        score -= 2.0
    corner = header[0].strip().lower()
    if found.turned and as_number(corner, found.marks) is not None:
        even = np.ptp(steps) <= 0.02 * abs(steps.mean()) if len(steps) else False
        score -= 0.0 if even or smoothness(found.numbers(list(columns[:SEEN]))) < 0.1 else 2.0
    elif found.turned and corner and corner not in ID_WORDS and not sounds_like_axis(corner):
        score -= 3.0  # a variable whose values happen to rise
    others = [c for c in range(len(header)) if c not in columns]
    for place in others[:3]:
        cells = found.column(place)
        score += _of_column(header[place], cells, found.marks, place == 0)
    return score


def _likeness(values: Floats) -> float:
    """Whether rows are signals of one kind: minus two where their sizes are far apart."""
    known = values[np.isfinite(values).any(axis=1)] if values.size else np.zeros((0, 1))
    sizes = np.nanmedian(np.abs(known), axis=1)
    sizes = sizes[np.isfinite(sizes) & (sizes > 0)]
    return -3.0 if len(sizes) > 2 and np.ptp(np.log10(sizes)) > 1.3 else 0.0


def _of_column(name: str, cells: Sequence[Any], marks: Marks, first: bool) -> float:
    """What a column that is no channel says of the rows: names of samples for, an axis against."""
    kinds = [kind_of(cell, marks) for cell in cells]
    texts = [text_of(cell) for cell, kind in zip(cells, kinds, strict=True) if kind == "t"]
    if len(texts) > 0.8 * len(cells):
        quantities = sum(names_a_quantity(text) for text in texts)
        return -6.0 if quantities >= 0.5 * len(texts) else 0.5  # temperature / °C, pH, …: these are variables
    if texts and len(texts) < 0.5 * len(cells):
        return -3.0 if first else -1.0  # words above numbers: these are names of columns that lie
    numbers = np.array([as_number(cell, marks) or 0.0 for cell in cells])
    if len(numbers) < 3 or not in_strict_order(numbers):
        return 0.0
    if bool((np.diff(numbers) == 1.0).all()) and numbers[0] in (0.0, 1.0):
        return 0.0
    if name.strip().lower() in ID_WORDS:
        return 0.5
    if first and not name.strip():
        return -1.0  # numbers without a name that rise and do not count: an axis, more likely than not
    quantity = quantity_named(name)[0] if name else "?"
    if quantity in COMMON:
        return -1.0 if first else 0.0
    return -2.0 if first and (quantity or name.strip().lower() == "x") else 0.0
