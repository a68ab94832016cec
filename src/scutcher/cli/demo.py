"""`demo`: the window, with a demo set."""

from __future__ import annotations

import argparse
from pathlib import Path

from scutcher.cli.options import Commands


def add(commands: Commands) -> None:
    """Its place in the command line."""
    demo = commands.add_parser("demo", help="the window, with a demo set")
    demo.add_argument("name", nargs="?", default="intake-nir", metavar="NAME")
    demo.add_argument("--pictures", type=Path, metavar="DIR", help="write pictures and tables, no window")
    demo.set_defaults(run=_demo)


def _demo(options: argparse.Namespace) -> int:
    if options.pictures is not None:
        from scutcher.desk.screenshots.gallery import write_gallery

        return write_gallery(options.name, options.pictures)
    from scutcher.desk.shell.start import run_window

    return run_window(demo=options.name)
