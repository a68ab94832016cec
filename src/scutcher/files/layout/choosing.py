"""The reading of some cells: the plausible ones are scored; a clear winner is taken, else it is asked."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from scutcher.core.errors import Unclear
from scutcher.core.frozen import frozen
from scutcher.files.layout.cells import PLAIN, Marks, marks_of
from scutcher.files.layout.cutting import Cut, Row, best_cut, some_cells
from scutcher.files.layout.forms import Long, Pair, long_form, pairs_form
from scutcher.files.layout.laid import (
    CLEAR,
    COMMON,
    SEEN,
    SOME,
    Laid,
    axis_columns,
    laid,
    plausibility,
    turned_rows,
)
from scutcher.files.layout.reading import Reading


@frozen
class Chosen:
    """Cells as they are read.

    Attributes
    ----------
    laid : samples in rows, unless the form is another
    reading : with nothing left to be found
    long, pairs : where the table has that form
    """

    laid: Laid
    reading: Reading
    long: Long | None = None
    pairs: tuple[Pair, ...] = ()


def choose_text(lines: Sequence[tuple[int, str]], said: Reading, name: str) -> Chosen:
    """The reading of a text, or of its beginning and end.

    Parameters
    ----------
    lines : numbered from 1
    said : what somebody says of it
    name : the file's, for messages

    Raises
    ------
    Unclear
        Two readings are as plausible as each other.
    """
    made = best_cut(lines, said.delimiter, said.comment)
    cells = some_cells(made.rows)
    marks = marks_of(cells, said.decimal, said.thousands)
    if marks is None:
        raise _unclear_marks(name, cells)
    made = replace(made, marks=marks, rows=_with_commented_header(made))
    found = choose_rows(made.rows, marks, said, name)
    reading = replace(found.reading, delimiter=made.delimiter, comment=said.comment)
    return replace(found, reading=reading)


def _with_commented_header(made: Cut) -> tuple[Row, ...]:
    """The rows; the last comment above them in front where they have no header and it has their width."""
    first = next((row for row in made.rows if row.filled), None)
    above = [row for row in made.comments if first is not None and row.number < first.number]
    if first is None or not above or len(above[-1].cells) != len(first.cells) or above[-1].filled < 2:
        return made.rows
    alone = laid(made.rows, made.marks, Reading())
    if alone.parts.header:
        return made.rows
    return (above[-1], *made.rows)


def _unclear_marks(name: str, cells: Sequence[object]) -> Unclear:
    example = next(
        cell for cell in cells if isinstance(cell, str) and "," in cell and marks_of([cell]) is None
    )
    return Unclear(
        f"{name} has numbers such as {example}: its comma may stand before decimals or between thousands.",
        "Say which; nothing was imported.",
        (
            (f"decimals ({example.replace(',', '.')})", Reading(decimal=",", thousands="")),
            (f"thousands ({example.replace(',', '')})", Reading(decimal=".", thousands=",")),
        ),
    )


def choose_rows(
    rows: Sequence[Row],
    marks: Marks = PLAIN,
    said: Reading | None = None,
    name: str = "",
) -> Chosen:
    """The reading of rows that are cut already: of a sheet, or of a text.

    Raises
    ------
    Unclear
    """
    said = said or Reading()
    plain = laid(rows, marks, said)
    known = _reading(plain, marks, said)
    if said.form in ("", "pairs"):
        pairs = pairs_form(plain)
        if pairs is not None:
            return Chosen(plain, replace(known, form="pairs", samples="columns"), pairs=tuple(pairs))
    if said.form in ("", "long"):
        long = long_form(plain)
        if long is not None and not long.sure and not said.form:
            raise Unclear(
                f"It is not clear whether a row of {name} is a sample, or one value of a sample "
                f"({plain.header[long.sample]}, {plain.header[long.place]}, {plain.header[long.value]}).",
                "Say which; nothing was imported.",
                (("a row is a sample", Reading(form="table")), ("a row is a value", Reading(form="long"))),
            )
        if long is not None and (long.sure or said.form == "long"):
            return Chosen(plain, replace(known, form="long", samples="rows"), long=long)
    if said.samples == "rows":
        return Chosen(plain, replace(known, form="table", samples="rows"))
    if said.samples == "columns":
        return _across(plain, marks, known)
    turned = laid(turned_rows(plain, SEEN), marks, Reading(), turned=True)
    by_rows, by_columns = plausibility(plain), plausibility(turned)
    could_be_both = axis_columns(turned)[2] in COMMON
    if by_columns >= max(by_rows + CLEAR, SOME) and not could_be_both:
        return _across(plain, marks, known)
    if by_columns >= SOME > by_rows and by_columns > by_rows - CLEAR:
        raise Unclear(
            f"It is not clear whether the samples of {name} stand in its rows or in its columns.",
            "Say which; nothing was imported.",
            (("in rows", Reading(samples="rows")), ("in columns", Reading(samples="columns"))),
        )
    return Chosen(plain, replace(known, form="table", samples="rows"))


def _across(plain: Laid, marks: Marks, known: Reading) -> Chosen:
    """The cells with rows and columns exchanged."""
    turned = laid(turned_rows(plain), marks, Reading(), turned=True)
    return Chosen(turned, replace(known, form="table", samples="columns", units=0))


def _reading(found: Laid, marks: Marks, said: Reading) -> Reading:
    """What was found out about the rows, by their numbers in the file, and what was said."""
    parts, rows = found.parts, found.rows
    return Reading(
        decimal=marks.decimal,
        thousands=marks.thousands,
        header=tuple(rows[place].number for place in parts.header),
        units=0 if parts.units is None else rows[parts.units].number,
        first=said.first,
        last=said.last,
        dates=said.dates,
        sheets=said.sheets,
        join=said.join,
    )
