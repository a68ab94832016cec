"""`demo-data`: the demo sets as files."""

from __future__ import annotations

import argparse
from pathlib import Path

from scutcher.cli.options import DONE, Commands


def add(commands: Commands) -> None:
    """Its place in the command line."""
    data = commands.add_parser("demo-data", help="write the demo sets and their truth files")
    data.add_argument("folder", type=Path, metavar="DIR")
    data.set_defaults(run=_demo_data)


def _demo_data(options: argparse.Namespace) -> int:
    from scutcher.demo.sets import write_demo_sets

    for path in write_demo_sets(options.folder):
        print(path)
    return DONE
