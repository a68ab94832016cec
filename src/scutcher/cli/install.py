"""`install`: desktop entry, icon and file type."""

from __future__ import annotations

import argparse
import sys
from pathlib import Path

from scutcher.cli.options import DONE, Commands


def add(commands: Commands) -> None:
    """Its place in the command line."""
    install = commands.add_parser("install", help="desktop entry, icon and file type for this user")
    install.set_defaults(run=_install)


def _install(options: argparse.Namespace) -> int:
    from platformdirs import user_data_path

    from scutcher.desk.shell.desktop_entry import install

    command = Path(sys.executable).with_name("scutcher")
    for path in install(user_data_path(), command):
        print(path)
    return DONE
