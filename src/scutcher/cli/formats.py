"""`formats`: what can be read and written."""

from __future__ import annotations

import argparse

from scutcher.cli.options import DONE, Commands


def add(commands: Commands) -> None:
    """Its place in the command line."""
    formats = commands.add_parser("formats", help="what can be read and written")
    formats.set_defaults(run=_formats)


def _formats(options: argparse.Namespace) -> int:
    from scutcher.files.formats import FORMATS

    suffixes = [", ".join(known.suffixes) for known in FORMATS]
    wide = max(map(len, suffixes)) + 2
    names = max(len(known.name) for known in FORMATS) + 2
    for known, words in zip(FORMATS, suffixes, strict=True):
        use = "read, write" if known.writes else "read"
        print(f"{known.name:<{names}}{words:<{wide}}{use:<13}{known.note}")
    print("Each of these text formats also inside gzip or zip; a folder of files of one kind is one table.")
    return DONE
