"""`watch`: project what an instrument writes, as it comes."""

from __future__ import annotations

import argparse
import shlex
import subprocess
import sys
import time
from pathlib import Path
from typing import TYPE_CHECKING

from scutcher.cli.options import DONE, Commands, add_limits_option

if TYPE_CHECKING:
    from scutcher.study.watching import Seen

ALARM = 3
LONGEST = 60.0  # seconds that the command of an alarm may take


def add(commands: Commands) -> None:
    """Its place in the command line."""
    watch = commands.add_parser("watch", help="project what an instrument writes into a folder, as it comes")
    watch.add_argument("model", type=Path, metavar="MODEL", help="model.json of fit, or a study")
    watch.add_argument("folder", type=Path, metavar="FOLDER")
    watch.add_argument("--out", type=Path, required=True, metavar="FILE.csv", help="grows; survives kills")
    watch.add_argument(
        "--alarm", metavar="COMMAND", help="run for each sample that does not belong, with its file and name"
    )
    watch.add_argument("--every", type=float, default=1.0, metavar="SECONDS", help="between two looks")
    watch.add_argument(
        "--once", action="store_true", help="end when all files are read; exit code 3 where a sample is alien"
    )
    add_limits_option(watch)
    watch.set_defaults(run=_watch)


def _watch(options: argparse.Namespace) -> int:
    from scutcher.cli.studies import component_model_of
    from scutcher.study.folder_events import IDLE, FolderEvents
    from scutcher.study.watching import Watching

    model = component_model_of(options.model)
    watching = Watching(model.judging(options.limits), options.folder, options.out)
    events = None if options.once else FolderEvents(options.folder)
    every, alarms = max(options.every, 0.01), 0
    try:
        while True:
            for one in watching.look():
                print(_line(one), flush=True)
                if one.belongs == "no":
                    alarms += 1
                    _alarm(options.alarm, one)
            if options.once and not watching.waits:
                return ALARM if alarms else DONE
            if events is None or not events.told or watching.waits:
                time.sleep(every)
            else:  # nothing is due before something is written
                events.wait(max(every, IDLE))
    except KeyboardInterrupt:
        return DONE
    finally:
        if events is not None:
            events.stop()


def _line(one: Seen) -> str:
    if not one.belongs:
        return f"{one.file} {one.sample}: {one.why}".replace(" :", ":")
    verdict = "belongs" if one.belongs == "yes" else f"does not belong ({one.why}; {', '.join(one.channels)})"
    return f"{one.file} {one.sample}: {verdict}"


def _alarm(command: str | None, one: Seen) -> None:
    """Run the command; what goes wrong with it is said, and the watching goes on."""
    if command is None:
        return
    try:
        words = [*shlex.split(command), one.file, one.sample, one.why]
        ended = subprocess.run(words, timeout=LONGEST, check=False).returncode
        trouble = f"ended with {ended}" if ended else ""
    except (OSError, ValueError, subprocess.TimeoutExpired) as error:
        trouble = str(error)
    if trouble:
        print(f"scutcher: the command of the alarm {trouble}", file=sys.stderr)
