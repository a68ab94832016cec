"""What several commands ask for: data files and the roles of their columns."""

from __future__ import annotations

import argparse
import sys
from pathlib import Path
from typing import TYPE_CHECKING, TypeAlias

from scutcher.core.errors import FileError, Unclear
from scutcher.files.layout.reading import CHOICES, Reading, read_reading, reading_of_pairs

if TYPE_CHECKING:
    from collections.abc import Sequence

    from scutcher.core.data.table import Table
    from scutcher.core.recipes.recipe import Recipe

Commands: TypeAlias = "argparse._SubParsersAction[argparse.ArgumentParser]"
"""What a command adds itself to."""

DONE = 0


def add_data_options(parser: argparse.ArgumentParser) -> None:
    """Ask for data files, and what their columns are."""
    parser.add_argument("data", nargs="+", type=Path, metavar="DATA")
    parser.add_argument("--id", metavar="COL")
    parser.add_argument("--class", dest="classes", action="append", default=[], metavar="COL")
    parser.add_argument("--property", dest="properties", action="append", default=[], metavar="COL")
    parser.add_argument("--replicate", metavar="COL")
    parser.add_argument(
        "--sheet",
        action="append",
        default=[],
        metavar="NAME[!RANGE]",
        help="a sheet of a workbook, or the matrix of a file; several are stacked",
    )
    parser.add_argument("--resample", action="store_true", help="bring other axes onto common channels")
    parser.add_argument(
        "--reading", type=Path, metavar="FILE.toml", help="a reading to be repeated; or a study, for its"
    )
    parser.add_argument("--transpose", action="store_true", help="samples stand in columns")
    parser.add_argument(
        "--axis", choices=("row", "column"), help="whether the axis is the header row or the first column"
    )
    parser.add_argument("--form", choices=CHOICES["form"], help="a row for each value is a long table")
    parser.add_argument(
        "--header-row", dest="header", action="append", type=int, metavar="N", help="0 for no header"
    )
    parser.add_argument("--first-row", type=int, metavar="N", help="of the data")
    parser.add_argument("--last-row", type=int, metavar="N", help="of the data")
    parser.add_argument("--delimiter", metavar="MARK", help="a mark, or comma, semicolon, tab, bar, blanks")
    parser.add_argument("--decimal", choices=CHOICES["decimal"])
    parser.add_argument("--thousands", metavar="MARK", help="the mark between thousands; none for no mark")
    parser.add_argument("--comment", metavar="MARK", help="what lines of comment begin with")
    parser.add_argument("--dates", choices=CHOICES["dates"])
    parser.add_argument(
        "--missing", action="append", type=float, default=[], metavar="NUMBER", help="a number that is a gap"
    )
    parser.add_argument("--join", choices=CHOICES["join"], help="how several sheets are put together")


def add_limits_option(parser: argparse.ArgumentParser) -> None:
    """Ask which limits judge new samples."""
    parser.add_argument(
        "--limits",
        choices=("held-out", "fitted"),
        default="held-out",
        help="what the limits were learned from",
    )


MARKS = {"comma": ",", "semicolon": ";", "tab": "\t", "bar": "|", "blanks": " ", "none": "", "space": " "}

SAMPLES = {None: "", "row": "rows", "column": "columns"}
"""How the samples stand, by where the axis is."""


def reading_of(options: argparse.Namespace) -> Reading:
    """What the options say of the layout, over what a file of a reading says.

    Raises
    ------
    FileError
    """
    given = Reading()
    if options.reading is not None and options.reading.suffix == ".scutch":
        from scutcher.cli.studies import study_of

        given = reading_of_pairs(study_of(options.reading)[0].source.reading)
    elif options.reading is not None:
        given = read_reading(options.reading)
    header = options.header and tuple(row for row in options.header if row > 0)
    sheets = tuple(options.sheet)
    said = Reading(
        delimiter=MARKS.get(options.delimiter or "", options.delimiter or ""),
        decimal=options.decimal or "",
        thousands=MARKS.get(options.thousands, options.thousands) if options.thousands is not None else None,
        comment=options.comment or "",
        header=header if options.header else None,
        first=options.first_row,
        last=options.last_row,
        samples=SAMPLES["column" if options.transpose else options.axis],
        form=options.form or "",
        sheets=sheets,
        join=options.join or "",
        dates=options.dates or "",
    )
    return said.over(given)


def data_of(options: argparse.Namespace, resample: bool | None = None) -> Table:
    """The table in the files that were named.

    Raises
    ------
    FileError
    """
    from scutcher.core.data.missing_marks import missing_marks, with_gaps
    from scutcher.files.columns import Roles
    from scutcher.files.formats import read_tables

    reading = reading_of(options)
    roles = Roles(
        options.id,
        tuple(options.classes),
        tuple(options.properties),
        options.replicate,
        reading.sheets[0] if len(reading.sheets) == 1 else None,
        reading=reading,
    )
    try:
        table = read_tables(options.data, roles, resample=options.resample if resample is None else resample)
    except Unclear as error:
        flags = " or ".join(dict.fromkeys(_flag(answer) for _, answer in error.answers))
        raise FileError(error.problem, f"Say which with {flags}; nothing was read.") from error
    for mark in options.missing:
        table = with_gaps(table, mark)
    marks = tuple(mark.text(table) for mark in missing_marks(table))
    return table.remarked(*marks)


def say_written(written: Sequence[Path], recipe: Recipe | None, files: Sequence[Path]) -> None:
    """Name what was written, each with by what, when, by whom and of which files it was made."""
    from scutcher.study.audit import stamp

    stamp(written, recipe, files)
    for path in written:
        print(path)


def role_pairs(options: argparse.Namespace) -> list[tuple[str, str]]:
    """The roles that were asked for, as a study keeps them."""
    pairs = [(name, "class") for name in options.classes]
    pairs += [(name, "property") for name in options.properties]
    if options.id:
        pairs.append((options.id, "id"))
    if options.replicate:
        pairs.append((options.replicate, "replicate"))
    return pairs


def say_what_was_not_read(table: Table) -> None:
    """On stderr, once everything is done: a command that fails owes a single line."""
    for remark in table.origin.remarks:
        print(f"scutcher: {remark}", file=sys.stderr)


def _flag(answer: Reading) -> str:
    """The options that say a reading."""
    names = {
        "samples": "--axis",
        "form": "--form",
        "decimal": "--decimal",
        "dates": "--dates",
        "sheets": "--sheet",
    }
    values = {("samples", samples): axis for axis, samples in SAMPLES.items()}
    plain = answer.plain()
    return next(
        f"{names[key]} {values.get((key, str(value)), value if isinstance(value, str) else value[0])}"
        for key, value in plain.items()
        if key in names
    )
