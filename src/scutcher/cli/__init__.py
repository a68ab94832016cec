"""The command line: a public contract; names here are never changed, only added. One file a command."""

from __future__ import annotations

import argparse
import sys
from collections.abc import Sequence

from scutcher import __version__
from scutcher.cli import (
    apply,
    blocks,
    demo,
    demo_data,
    export,
    fit,
    formats,
    groups,
    images,
    install,
    report,
    treat,
    treatments,
    unmix,
    verify,
    watch,
    window,
)
from scutcher.core.errors import InputError

COMMANDS = (
    window,
    demo,
    demo_data,
    export,
    fit,
    apply,
    groups,
    images,
    unmix,
    verify,
    watch,
    blocks,
    report,
    treat,
    formats,
    treatments,
    install,
)
"""Each has `add(commands)`, which says its options and what runs; in the order of the help."""

UNUSABLE = 1


def main(arguments: Sequence[str] | None = None) -> int:
    """Run one command.

    Returns
    -------
    int
        0 done; 1 the data or recipe cannot be used (one line on stderr); 2 wrong call.
    """
    given = list(sys.argv[1:] if arguments is None else arguments)
    try:
        options = _parser().parse_args(given or ["open"])
    except SystemExit as wrong:  # argparse has printed usage, help or the version
        return int(wrong.code or 0)
    try:
        return int(options.run(options))
    except InputError as error:
        print(f"scutcher: {error}".replace("\n", " "), file=sys.stderr)
        return UNUSABLE
    except BrokenPipeError:
        return UNUSABLE
    except MemoryError:
        print("scutcher: The memory is not enough for these data. Use fewer variables.", file=sys.stderr)
        return UNUSABLE


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(
        prog="scutcher", description="Treat, model and inspect stacked spectra and instrument signals."
    )
    parser.add_argument("--version", action="version", version=f"scutcher {__version__}")
    commands = parser.add_subparsers(metavar="COMMAND", required=True)
    for command in COMMANDS:
        command.add(commands)
    return parser
