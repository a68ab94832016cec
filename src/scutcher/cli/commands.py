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

COMMANDS = {
    "open": window,
    "demo": demo,
    "demo-data": demo_data,
    "export": export,
    "fit": fit,
    "apply": apply,
    "groups": groups,
    "map": images,
    "unmix": unmix,
    "verify": verify,
    "replay": verify,
    "watch": watch,
    "blocks": blocks,
    "report": report,
    "treat": treat,
    "formats": formats,
    "treatments": treatments,
    "install": install,
}
"""Where each is, in the order of the help; a file has `add(commands)`: its options, and what runs."""


def parser(chosen: str = "") -> argparse.ArgumentParser:
    """The command line; man page and completions are made from it.

    Parameters
    ----------
    chosen : str
        The command that is called: the options of all others would be made for nothing.
    """
    whole = argparse.ArgumentParser(
        prog="scutcher", description="Treat, model and inspect stacked spectra and instrument signals."
    )
    whole.add_argument("--version", action="version", version=f"scutcher {__version__}")
    commands = whole.add_subparsers(metavar="COMMAND", required=True)
    wanted = [COMMANDS[chosen]] if chosen in COMMANDS else list(COMMANDS.values())
    for command in dict.fromkeys(wanted):
        command.add(commands)
    return whole
