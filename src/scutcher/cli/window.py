"""`open`: the window, with data files."""

from __future__ import annotations

import argparse
from pathlib import Path

from scutcher.cli.options import Commands


def add(commands: Commands) -> None:
    """Its place in the command line."""
    window = commands.add_parser("open", help="the window, with data files")
    window.add_argument("files", nargs="*", type=Path, metavar="FILE")
    window.set_defaults(run=_open)


def _open(options: argparse.Namespace) -> int:
    from scutcher.desk.shell.start import run_window

    return run_window(files=options.files)
