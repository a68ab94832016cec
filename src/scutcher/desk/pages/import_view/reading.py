"""What the import view reads, behind: the table as it would be brought in, or what is wrong with it."""

from __future__ import annotations

from pathlib import Path

from scutcher.core.data.axis import split_unit
from scutcher.core.data.findings import Finding, findings
from scutcher.core.data.missing_marks import with_gaps
from scutcher.core.data.table import Table
from scutcher.core.errors import MENDS, InputError
from scutcher.core.frozen import frozen
from scutcher.core.models.missing_values import check_usable
from scutcher.core.progress import Stopped, Watch
from scutcher.core.recipes.recipe import Recipe
from scutcher.files.formats import read_tables
from scutcher.files.layout.reading import reading_of_pairs
from scutcher.files.looking import Found, look_at
from scutcher.files.roles import roles_of_pairs
from scutcher.study.document.commands.data import NameAxis
from scutcher.study.document.commands.samples import LeaveOutVariables
from scutcher.study.document.parts import Source
from scutcher.study.document.state import State


@frozen
class Answer:
    """What a file looks like and gives.

    Attributes
    ----------
    found : the file as found
    table : as it would be brought in; where it is refused, as it would be if it were mended
    refused : what is wrong with it
    findings : what is worth telling of the table
    """

    found: Found
    table: Table | None
    refused: InputError | None = None
    findings: tuple[Finding, ...] = ()


@frozen
class Said:
    """What a person said of the values, which holds however the file is read.

    Attributes
    ----------
    marks : numbers that stand for missing values
    left_out : name and reason of variables that are left out
    """

    marks: tuple[float, ...] = ()
    left_out: tuple[tuple[str, str], ...] = ()

    def applied(self, table: Table) -> Table:
        """A table with all that was said."""
        for mark in self.marks:
            table = with_gaps(table, mark)
        places = {table.axis.name(place): place for place in range(len(table.axis))} if self.left_out else {}
        for reason in dict.fromkeys(reason for _, reason in self.left_out):
            named = (places.get(name) for name, given in self.left_out if given == reason)
            columns = tuple(place for place in named if place is not None and place not in table.left_out)
            if columns:
                table = LeaveOutVariables(columns, reason).apply(State.of("", table)).table or table
        return table


def look_over(table: Table, said: Said, watch: Watch) -> tuple[Table, tuple[Finding, ...]]:
    """A table with all that was said of it, and what is worth telling of it then."""
    table = said.applied(table)
    return table, findings(table)


def read_source(
    paths: tuple[Path, ...], pairs: dict[str, str], source: Source, axis: str, said: Said, watch: Watch
) -> Answer:
    """The table in some files; or what is wrong with them, and the table if all were mended.

    Parameters
    ----------
    paths : the files
    pairs : column → role
        Those that a person gave.
    source : sheet, reading, mends
    axis : what the axis is, as in "wavelength / nm"; "" for what the file says
    said : what a person said of the values
    """

    def with_mends(mends: tuple[str, ...]) -> Table:
        roles = roles_of_pairs(pairs.items(), source.sheet, reading_of_pairs(source.reading), mends)
        table = _with_axis(read_tables(list(paths), roles, watch, source.resampled), axis)
        check_usable(table, Recipe().model)
        return table

    found = look_at(paths[0], reading_of_pairs(source.reading))
    try:
        table, told = look_over(with_mends(source.mends), said, watch)
        return Answer(found, table, None, told)
    except Stopped:
        raise
    except InputError as error:
        if not error.mends:
            return Answer(found, None, error)
        try:
            return Answer(found, with_mends(tuple(MENDS)), error)
        except InputError:  # something else is wrong as well, and is said once this is mended
            return Answer(found, None, error)


def _with_axis(table: Table, said: str) -> Table:
    """What the axis is, where somebody has said so."""
    if not said or not table.axis.ordered:
        return table
    quantity, unit = split_unit(said)
    return NameAxis(quantity, unit).apply(State.of("", table)).table or table
