"""All commands, in the order of the help; one file a command."""

from __future__ import annotations

import argparse

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


def parser() -> argparse.ArgumentParser:
    """The whole command line; man page and completions are made from it."""
    whole = argparse.ArgumentParser(
        prog="scutcher", description="Treat, model and inspect stacked spectra and instrument signals."
    )
    whole.add_argument("--version", action="version", version=f"scutcher {__version__}")
    commands = whole.add_subparsers(metavar="COMMAND", required=True)
    for command in COMMANDS:
        command.add(commands)
    return whole
