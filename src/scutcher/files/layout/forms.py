"""Tables in other forms: a row for each value (long), or two columns for each sample (pairs)."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np

from scutcher.core.arrays import Floats, in_strict_order
from scutcher.core.frozen import frozen
from scutcher.files.layout.cells import as_number, kind_of
from scutcher.files.layout.headers import quantity_named, sounds_like_axis
from scutcher.files.layout.laid import Laid, text_of

VALUE_WORDS = (
    "value", "values", "intensity", "absorbance", "abs", "signal", "y", "reflectance", "counts", "response",
    "transmittance", "amount", "concentration", "result", "measurement",
)  # fmt: skip
NAME_WORDS = (
    "variable", "parameter", "analyte", "property", "element", "compound", "measure", "quantity", "channel",
    "sensor", "attribute", "test", "component",
)  # fmt: skip
LEAST, MANY = 3, 10
"""Places that each sample of a long table has at least, and from which nobody has to be asked."""


@frozen
class Long:
    """The columns of a long table: sample, place on the axis (or name of the variable), value; the others.

    Attributes
    ----------
    sample, place, value : int
    others : columns that are the same within each sample
    ordered : whether the places are numbers
    sure : whether nobody has to be asked
    """

    sample: int
    place: int
    value: int
    others: tuple[int, ...]
    ordered: bool
    sure: bool


def long_form(found: Laid) -> Long | None:
    """The columns of a long table, or None where it is none."""
    width = len(found.header)
    if not 3 <= width <= 8 or len(found.data) < 2 * LEAST:
        return None
    columns = [found.column(place) for place in range(width)]
    kinds = [{kind_of(cell, found.marks) for cell in cells} for cells in columns]
    numeric = [c for c in range(width) if kinds[c] <= {"n", "-"}]
    names = [name.strip().lower() for name in found.header]
    values = [c for c in numeric if _word(names[c]) in VALUE_WORDS] or numeric[-1:]
    best: Long | None = None
    for value in values:
        for place in range(width):
            for sample in range(width):
                if len({value, place, sample}) < 3 or "-" in kinds[place] | kinds[sample]:
                    continue
                made = _as_long(found, columns, sample, place, value, place in numeric)
                if made is not None and (best is None or _rank(made, found) > _rank(best, found)):
                    best = made
    return best


def _word(name: str) -> str:
    return name.partition("/")[0].partition("(")[0].strip()


def _rank(made: Long, found: Laid) -> tuple[bool, bool, bool, int, int]:
    names = found.header[made.place], found.header[made.sample]
    fits = sounds_like_axis(names[0]) or _word(names[0].lower()) in NAME_WORDS
    return made.sure, fits, not sounds_like_axis(names[1]), len(made.others), -made.sample


def _as_long(
    found: Laid, columns: list[list[Any]], sample: int, place: int, value: int, ordered: bool
) -> Long | None:
    """A long table with these columns, if its rows are each sample at each place once."""
    samples = [text_of(cell) for cell in columns[sample]]
    places = [text_of(cell) for cell in columns[place]]
    if "" in samples or "" in places or len(set(zip(samples, places, strict=True))) < len(samples):
        return None
    k, m, n = len(set(samples)), len(set(places)), len(samples)
    if k < 2 or m < (LEAST if ordered else 2) or n < 0.7 * k * m:
        return None
    others = [c for c in range(len(columns)) if c not in (sample, place, value)]
    first: dict[str, int] = {}
    for row, name in enumerate(samples):
        start = first.setdefault(name, row)
        if any(text_of(columns[c][row]) != text_of(columns[c][start]) for c in others):
            return None
    name = found.header[place].strip()
    fits = sounds_like_axis(name) if ordered else _word(name.lower()) in NAME_WORDS
    if not fits and n < k * m:
        return None
    return Long(sample, place, value, tuple(others), ordered, fits or (m >= MANY and ordered))


def from_long(found: Laid, form: Long) -> tuple[list[str], list[list[Any]], list[int]]:
    """Header, columns, and the line of the first value of each sample."""
    samples = [text_of(cell) for cell in found.column(form.sample)]
    places = found.column(form.place)
    marks = found.marks
    keys: list[Any] = [as_number(cell, marks) if form.ordered else text_of(cell) for cell in places]
    names = list(dict.fromkeys(samples))
    order: list[Any] = list(dict.fromkeys(keys))
    if form.ordered and not in_strict_order(order):
        order.sort()
    row_of, column_of = {name: row for row, name in enumerate(names)}, {key: c for c, key in enumerate(order)}
    cells: list[list[Any]] = [[None] * len(names) for _ in order]
    others: list[list[Any]] = [[None] * len(names) for _ in form.others]
    lines = [0] * len(names)
    for row, (name, key, value) in enumerate(zip(samples, keys, found.column(form.value), strict=True)):
        cells[column_of[key]][row_of[name]] = value
        if not lines[row_of[name]]:
            lines[row_of[name]] = found.data[row].number
            for place, column in enumerate(form.others):
                others[place][row_of[name]] = found.data[row].cells[column]
    labels = [f"{key:.12g}" if form.ordered else str(key) for key in order]
    header = [found.header[form.sample], *(found.header[c] for c in form.others), *labels]
    return header, [list(names), *others, *cells], lines


@frozen
class Pair:
    """A spectrum in two columns: its name, x and y."""

    name: str
    x: Floats
    y: Floats


def pairs_form(found: Laid) -> list[Pair] | None:
    """The spectra of a table whose columns are x, y, x, y, …; None where it is none."""
    width = len(found.header)
    if width < 4 or width % 2 or len(found.data) < 3:
        return None
    made = []
    for column in range(0, width, 2):
        x = [as_number(cell, found.marks) for cell in found.column(column)]
        y = [as_number(cell, found.marks) for cell in found.column(column + 1)]
        both = [(a, b) for a, b in zip(x, y, strict=True) if a is not None]
        if len(both) < 3 or any(b is None for _, b in both):
            return None
        xs = np.array([a for a, _ in both], dtype=np.float64)
        if not in_strict_order(xs):
            return None
        made.append(Pair("", xs, np.array([b for _, b in both], dtype=np.float64)))
    if not _are_axes(made, found.header):
        return None
    return [Pair(name, pair.x, pair.y) for name, pair in zip(_pair_names(found), made, strict=True)]


def _are_axes(pairs: Sequence[Pair], header: Sequence[str]) -> bool:
    """Whether every first column of two is an axis: they agree, or are named so and span the same."""
    xs = [name.strip().lower() for name in header[0::2]]
    alike = len(set(xs)) == 1 or all(sounds_like_axis(name) for name in xs)
    first = pairs[0].x
    near = all(
        abs(pair.x[0] - first[0]) <= 0.2 * np.ptp(first) and abs(np.ptp(pair.x) / np.ptp(first) - 1) < 0.5
        for pair in pairs
    )
    same = all(pair.x.shape == first.shape and np.allclose(pair.x, first) for pair in pairs)
    return near and (alike or same)


def _pair_names(found: Laid) -> list[str]:
    """What the spectra are called: the headers of y where they differ, of x, or the row above them."""
    header = found.header
    ys, xs = list(header[1::2]), list(header[0::2])
    for names in (ys, xs):
        if len(set(names)) == len(names) and "" not in names and not all(sounds_like_axis(n) for n in names):
            return names
    for place in reversed(found.parts.title[-3:]):
        cells = [text_of(cell) for cell in found.rows[place].cells]
        for start in (0, 1):
            names = [name for name in cells[start::2] if name]
            if len(names) == len(ys) and len(set(names)) == len(names):
                return names
    return [str(place + 1) for place in range(len(ys))]


def pair_axis(found: Laid) -> tuple[str, str]:
    """Quantity and unit of the axis of pairs."""
    name = found.header[0]
    if not sounds_like_axis(name) and found.parts.units is not None:
        name = text_of(found.rows[found.parts.units].cells[0])
    return quantity_named(name)
