"""`demo-data`: the demo sets as files."""

from __future__ import annotations

import argparse
from pathlib import Path

from scutcher.cli.options import DONE, Commands


def add(commands: Commands) -> None:
    """Its place in the command line."""
    data = commands.add_parser("demo-data", help="write the demo sets and their truth files")
    data.add_argument("folder", type=Path, metavar="DIR")
    data.add_argument(
        "--size",
        metavar="ROWSxCOLUMNSxBANDS",
        help="write the belt scan alone, in this size: an image that need not fit memory",
    )
    data.set_defaults(run=_demo_data)


def _demo_data(options: argparse.Namespace) -> int:
    from scutcher.demo.large_belt_scan import write_large_belt_scan
    from scutcher.demo.sets import write_demo_sets
    from scutcher.files.images.shape import shape_of
    from scutcher.files.safely import make_folder

    if options.size is None:
        written = write_demo_sets(options.folder)
    else:
        size = shape_of(options.size)
        make_folder(options.folder)
        written = write_large_belt_scan(options.folder, size.rows, size.columns, size.channels or 160)
    for path in written:
        print(path)
    return DONE
