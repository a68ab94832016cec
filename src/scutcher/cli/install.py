"""`install`: what belongs to a desktop, for the person who calls it."""

from __future__ import annotations

import argparse
import sys
from pathlib import Path

from scutcher.cli.options import DONE, Commands


def add(commands: Commands) -> None:
    """Its place in the command line."""
    install = commands.add_parser(
        "install", help="desktop entry, icon, file type, man page and completions for this user"
    )
    install.add_argument("--remove", action="store_true", help="take them away again")
    install.set_defaults(run=_install)


def _install(options: argparse.Namespace) -> int:
    from platformdirs import user_data_path

    from scutcher.cli.commands import parser
    from scutcher.cli.manual import bash_completion, fish_completion, man_page
    from scutcher.desk.shell.desktop_entry import install, uninstall

    whole = parser()
    told = {"man": man_page(whole), "bash": bash_completion(whole), "fish": fish_completion(whole)}
    command = Path(sys.executable).with_name("scutcher")
    for path in (uninstall if options.remove else install)(user_data_path(), command, told):
        print(path)
    return DONE
