"""Tables from cells whose layout has been chosen: of a text file, or of a sheet."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from functools import partial
from pathlib import Path
from typing import Any

from scutcher.core.data.constant_variables import leave_out_empty
from scutcher.core.data.origin import Origin
from scutcher.core.data.table import Table
from scutcher.core.errors import FileError
from scutcher.core.words import count_of
from scutcher.files.columns import Roles
from scutcher.files.frames import Frame, column_of, table_of_frame
from scutcher.files.layout.cells import as_number, kind_of
from scutcher.files.layout.choosing import Chosen
from scutcher.files.layout.cutting import Row
from scutcher.files.layout.forms import from_long, pair_axis
from scutcher.files.layout.headers import quantity_named
from scutcher.files.layout.laid import Laid, text_of
from scutcher.files.layout.naming import Named, named
from scutcher.files.layout.rows import Parts
from scutcher.files.spectra import Spectrum, table_of

MARKS = {",": "commas", ";": "semicolons", "\t": "tabs", "|": "bars", " ": "blanks", "": ""}


def table_of_chosen(chosen: Chosen, roles: Roles, path: Path, words: str) -> Table:
    """The table in some cells.

    Parameters
    ----------
    chosen : the cells with their layout
    roles : what the caller says of the columns
    path : of the file, for its name and for messages
    words : how it was read, in one line

    Raises
    ------
    FileError, TableError
    """
    if chosen.pairs:
        quantity, unit = pair_axis(chosen.laid)
        spectra = [Spectrum(pair.name, pair.x, pair.y, quantity, unit) for pair in chosen.pairs]
        table = table_of(spectra, path.stem)
        origin = Origin(words, chosen.reading.pairs(), _rows_not_read(chosen))
        return leave_out_empty(replace(table, origin=origin))
    laid = chosen.laid
    quantity = unit = ""
    if chosen.long is not None:
        header, columns, lines = from_long(laid, chosen.long)
        kept = named(_as_laid(laid, header, columns, lines), roles, chosen.reading, path.name)
        if chosen.long.ordered:
            quantity, unit = quantity_named(laid.header[chosen.long.place])
        columns = [columns[place] for place in kept.places]
    else:
        _check_widths(laid, path)
        kept = named(laid, roles, chosen.reading, path.name)
        columns = [laid.column(place) for place in kept.places]
        lines = [row.number for row in laid.data]
    frame = frame_of_cells(kept, columns, laid, lines, path)
    origin = Origin(words, chosen.reading.pairs(), remarks_of(chosen, kept), kept.columns)
    axis = (kept.quantity or quantity, kept.unit or unit)
    made = Frame(frame, path, lines.__getitem__, *axis, kept.dates, chosen.reading.dates, origin)
    return table_of_frame(made, kept.roles)


def _as_laid(
    laid: Laid, header: Sequence[str], columns: Sequence[Sequence[Any]], lines: Sequence[int]
) -> Laid:
    """A long table as one with samples in rows."""
    rows = [Row(0, tuple(header))]
    rows += [Row(line, tuple(cells)) for line, cells in zip(lines, zip(*columns, strict=True), strict=True)]
    parts = Parts(header=(0,), data=tuple(range(1, len(rows))))
    return Laid(tuple(rows), laid.marks, parts)


def _check_widths(laid: Laid, path: Path) -> None:
    """Refuse a row with more or fewer cells than the header."""
    if laid.turned:
        return
    expected = len(laid.header)
    for row in laid.data:
        count = len(row.cells)
        while count > expected and not text_of(row.cells[count - 1]):
            count -= 1
        if count != expected and row.cells and isinstance(row.cells[0], str):
            raise FileError(
                f"Row {row.number} of {path.name} has {count} values, the header {expected}.",
                "Correct the row and import again; nothing was imported.",
            )


def frame_of_cells(
    kept: Named, columns: Sequence[Sequence[Any]], laid: Laid, lines: Sequence[int], path: Path
) -> Any:
    """Columns of cells as the library holds them."""
    import pandas

    number = partial(as_number, marks=laid.marks)
    as_text = {*kept.roles.as_text()}
    made = {}
    for name, cells in zip(kept.header, columns, strict=True):
        if name in kept.dates:
            made[name] = pandas.Series(
                [None if kind_of(cell) == "-" else cell for cell in cells], dtype=object
            )
        else:
            made[name] = column_of(cells, name in as_text, number)
    return pandas.DataFrame(made)


def words_of(chosen: Chosen) -> str:
    """How cells were read, in one line."""
    read, parts = chosen.reading, chosen.laid.parts
    words = [
        MARKS.get(read.delimiter, read.delimiter),
        f"decimal {'comma' if read.decimal == ',' else 'point'}",
    ]
    if read.header:
        words.append(
            f"header in row{'s' if len(read.header) > 1 else ''} {' and '.join(map(str, read.header))}"
        )
    elif not chosen.pairs:
        words.append("no header")
    if read.units:
        words.append(f"units in row {read.units}")
    if read.form == "long":
        words.append("a row for each value")
    elif read.form == "pairs":
        words.append("two columns for each spectrum")
    elif read.samples == "columns":
        words.append("samples in columns")
    if parts.statistics or parts.footer:
        words.append(f"data to row {chosen.laid.data[-1].number}" if not chosen.laid.turned else "")
    return ", ".join(word for word in words if word)


def remarks_of(chosen: Chosen, kept: Named) -> tuple[str, ...]:
    """What of the cells was not read."""
    return (*_rows_not_read(chosen), *kept.remarks)


def _rows_not_read(chosen: Chosen) -> tuple[str, ...]:
    parts, rows = chosen.laid.parts, chosen.laid.rows
    found = []
    where = "columns" if chosen.laid.turned else "rows"
    if parts.statistics:
        names = ", ".join(next(text_of(c) for c in rows[p].cells if text_of(c)) for p in parts.statistics[:6])
        found.append(f"{count_of(parts.statistics, where[:-1])} of {names} below the data: not read")
    if parts.footer:
        first = rows[parts.footer[0]]
        text = " ".join(text_of(cell) for cell in first.cells if text_of(cell))[:40]
        found.append(f"{count_of(parts.footer, where[:-1])} below the data, {text!r}: not read")
    if parts.repeated:
        found.append(f"The header stands {count_of(parts.repeated, 'more time')} among the data: not read")
    used = chosen.laid.names_above if parts.header else ()
    title = [p for p in parts.title if p not in used and not _says_delimiter(rows[p].cells)]
    if title and not chosen.laid.turned and not chosen.pairs:
        text = " ".join(text_of(cell) for cell in rows[title[0]].cells if text_of(cell))[:40]
        found.append(f"{count_of(title, 'row')} above the header, {text!r}: not read")
    return tuple(found)


def _says_delimiter(cells: Sequence[Any]) -> bool:
    """Whether a row is the line by which spreadsheets tell one another the delimiter."""
    return bool(cells) and text_of(cells[0]).lower() in ("sep=", "sep=,", "sep=;", "sep=|")
