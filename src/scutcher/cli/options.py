"""What several commands ask for: data files and the roles of their columns."""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import TYPE_CHECKING, TypeAlias

if TYPE_CHECKING:
    from scutcher.core.data.table import Table

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
    parser.add_argument("--sheet", metavar="NAME", help="the sheet of a workbook, the matrix of a file")


def data_of(options: argparse.Namespace) -> Table:
    """The table in the files that were named.

    Raises
    ------
    FileError
    """
    from scutcher.files.columns import Roles
    from scutcher.files.formats import read_tables

    roles = Roles(
        options.id, tuple(options.classes), tuple(options.properties), options.replicate, options.sheet
    )
    return read_tables(options.data, roles, resample=getattr(options, "resample", False))
