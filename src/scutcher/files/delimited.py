"""CSV, TSV and other tables in text: how they are laid out is found by looking at their beginning and end."""

from __future__ import annotations

from pathlib import Path

from scutcher.core.data.origin import Origin
from scutcher.core.data.table import Table
from scutcher.core.errors import FileError
from scutcher.core.progress import Watch
from scutcher.files.cell_tables import remarks_of, table_of_chosen, words_of
from scutcher.files.columns import Roles
from scutcher.files.frames import Frame, table_of_frame
from scutcher.files.large_delimited import LargeTable
from scutcher.files.layout.choosing import Chosen, choose_text
from scutcher.files.layout.cutting import BLANKS
from scutcher.files.layout.naming import Named, named
from scutcher.files.safely import reading
from scutcher.files.text_lines import Lines, all_lines, lines_of


def read_delimited(path: Path, roles: Roles | None = None, watch: Watch | None = None) -> Table:
    """Read a table in a text file.

    Parameters
    ----------
    path : Path
        Delimiter, marks of numbers, encoding, rows of title, header, units and footer, comments, whether
        samples stand in rows or columns, and whether it is a long table, are found by looking.
    roles : Roles
        Columns that the caller names, and what it says of the layout. Else the first text column is the id,
        other text columns are classes, and numeric columns with a name beside a numeric axis are properties.
    watch : function of a share from 0 to 1
        Told how much of a large file has been read; reading stops where it answers False.

    Returns
    -------
    Table
        Constant and empty variables are left out with the reason; its origin says what was not read.

    Raises
    ------
    FileError
        Stopped, missing, empty, binary, ragged, without numbers, text in a column of numbers.
    Unclear
        It can be read in several ways.
    TableError
        Two samples with one id, an infinite value, an axis that turns back.
    """
    roles = roles or Roles()
    with reading(path):
        seen = lines_of(path)
        chosen = _checked(choose_text(seen.lines, roles.reading, path.name), path)
        plain = chosen.reading.form == "table" and chosen.reading.samples == "rows"
        if seen.whole or not plain or chosen.reading.delimiter == BLANKS:
            if not seen.whole:
                chosen = choose_text(all_lines(path, seen.encoding), roles.reading, path.name)
            return table_of_chosen(chosen, roles, path, _words(chosen, seen.encoding))
        names = named(chosen.laid, roles, chosen.reading, path.name)
        frame = _frame(path, chosen, seen, names, watch)
    return table_of_frame(frame, names.roles)


def _words(chosen: Chosen, encoding: str) -> str:
    return f"{words_of(chosen)}, {encoding}"


def _checked(chosen: Chosen, path: Path) -> Chosen:
    """Refuse what cannot be a table, each with its sentence."""
    laid = chosen.laid
    filled = [row for row in laid.rows if row.filled]
    if not filled:
        raise FileError(f"{path.name} holds comments only.", "Choose a file with one row per sample.")
    if max(len(row.cells) for row in filled) < 2:
        shown = str(filled[0].cells[0])[:40]
        raise FileError(
            f"{path.name} has a single column ({shown!r}).",
            "Use comma, semicolon or tab between columns, and at least two variables.",
        )
    if len(filled) < 2 or not laid.parts.data:
        raise FileError(f"{path.name} has a header and no samples.", "Add one row per sample.")
    return chosen


def _frame(path: Path, chosen: Chosen, seen: Lines, names: Named, watch: Watch | None) -> Frame:
    """The rows of a large file, by the library."""
    cells = LargeTable(path, chosen, seen, names).checked_frame(watch)
    first = chosen.laid.data[0].number
    origin = Origin(
        _words(chosen, seen.encoding), chosen.reading.pairs(), remarks_of(chosen, names), names.columns
    )
    return Frame(
        cells,
        path,
        lambda row: row + first,
        names.quantity,
        names.unit,
        names.dates,
        chosen.reading.dates,
        origin,
    )
