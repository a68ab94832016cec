"""`verify` and `replay`: what still holds of what was made, and the same decisions again."""

from __future__ import annotations

import argparse
import sys
from pathlib import Path

from scutcher.cli.options import DONE, Commands

DOES_NOT_HOLD = 1
WORDS = {True: "holds", False: "does not hold", None: "cannot be told"}


def add(commands: Commands) -> None:
    """Their places in the command line."""
    verify = commands.add_parser("verify", help="what still holds of a study or model")
    verify.add_argument("file", type=Path, metavar="FILE", help="a study or a model.json")
    verify.set_defaults(run=_verify)
    replay = commands.add_parser("replay", help="the decisions of a study again, and what differs")
    replay.add_argument("study", type=Path, metavar="STUDY")
    replay.add_argument("--data", type=Path, nargs="+", required=True, metavar="FILE")
    replay.set_defaults(run=_replay)


def _verify(options: argparse.Namespace) -> int:
    from scutcher.study.verification import verified

    findings = verified(options.file)
    for one in findings:
        print(f"{WORDS[one.holds]}: {one.words}")
    failed = [one for one in findings if one.holds is False]
    if failed:
        print(f"{options.file.name} does not hold: {failed[0].words}", file=sys.stderr)
        return DOES_NOT_HOLD
    return DONE


def _replay(options: argparse.Namespace) -> int:
    from scutcher.cli.studies import study_of
    from scutcher.study.replay import replayed

    found = replayed(study_of(options.study)[0], tuple(options.data))
    for title, lines in (("figures", found.differences), ("flags", found.flags)):
        if lines:
            print(f"{title} that differ (then → now):")
            for line in lines:
                print(f"  {line}")
    for note in found.notes:
        print(note)
    if not found.differences and not found.flags:
        print(f"Nothing differs: {found.same} figures are the same, and so is every flag.")
    else:
        print(f"{found.same} figures are the same.")
    return DONE
