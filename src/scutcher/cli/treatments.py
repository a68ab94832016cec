"""`treatments`: every treatment, or one."""

from __future__ import annotations

import argparse

from scutcher.cli.options import DONE, Commands


def add(commands: Commands) -> None:
    """Its place in the command line."""
    treatments = commands.add_parser("treatments", help="every treatment, or one with its parameters")
    treatments.add_argument("name", nargs="?", metavar="NAME")
    treatments.add_argument("--markdown", action="store_true", help="the guide's page of all of them")
    treatments.set_defaults(run=_treatments)


def _treatments(options: argparse.Namespace) -> int:
    from scutcher.core.treatments import all_treatments, treatment
    from scutcher.core.treatments.support.manual import entry, guide

    if options.markdown:
        print(guide(all_treatments().values()), end="")
        return DONE
    if options.name is not None:
        print(entry(treatment(options.name)))
        return DONE
    for known in all_treatments().values():
        learns = "learns from the set" if known.learns else "row by row"
        print(f"{known.key:<26}{learns:<22}{known.purpose}")
    return DONE
