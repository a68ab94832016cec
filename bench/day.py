"""A day's work at speed: memory, the size of the study file, and how an old study opens beside a new one.

`python -m bench day [ROUNDS]`. A round is what an analyst does in some minutes: look, treat, slide a handle,
pick, set aside, bring back, undo, go through the pages, put a model by. Results kept for reuse are held to
64 MB, so that what grows beside them can be seen.
"""

from __future__ import annotations

import os
import tempfile
import time
from pathlib import Path
from unittest import mock

from PySide6.QtWidgets import QApplication

from bench.memory import in_use
from bench.startup import OPENED, seconds_to_paint
from bench.timing import median_ratio
from scutcher.core.recipes.recipe import recipe_from_plain
from scutcher.desk.shell.beginning import demo_study
from scutcher.desk.shell.ending import dispose
from scutcher.desk.shell.start import application
from scutcher.desk.shell.window import Window
from scutcher.study.document.commands.recipe import AddStep, ChangeStep, KeepComponents, RemoveStep
from scutcher.study.document.commands.samples import BringBack, SetAside
from scutcher.study.document.study import Study
from scutcher.study.evaluation.cache import Cache

ROUNDS, FIRST, KEPT = 60, 0.1, 64_000_000
PAGES = ("Samples", "Treat", "Rank", "Inspect", "Groups", "Report")
SNV, SMOOTH = (
    recipe_from_plain({"treat": [step]}).treat[0]
    for step in ({"method": "snv"}, {"method": "savitzky-golay", "window": 11})
)


def report(*arguments: str) -> list[str]:
    """The lines of this bench; ROUNDS as an argument."""
    rounds = int(arguments[0]) if arguments else ROUNDS
    small = Cache(KEPT)
    with tempfile.TemporaryDirectory() as folder, mock.patch.dict(os.environ, {"XDG_STATE_HOME": folder}):
        with mock.patch("scutcher.study.current_model.shared", lambda: small):
            return _day(Path(folder), rounds)


def _day(folder: Path, rounds: int) -> list[str]:
    application()
    old, new = folder / "old.scutch", folder / "new.scutch"
    for path in (old, new):
        study = demo_study("intake-nir")
        study.keep_in(path)
        study.close()
    study = Study.open(old)
    window = Window(study)
    window.show()
    memory, sizes, commands = [], [], 0
    for turn in range(rounds):
        commands += _round(window, turn)
        memory.append(in_use())
        sizes.append(old.stat().st_size)
    dispose(window)
    study.close()
    first = max(1, int(FIRST * rounds)) - 1
    grown = 100.0 * (max(memory[first:]) / memory[first] - 1.0)
    slow, quick = median_ratio(lambda: _opened(old), lambda: _opened(new), 9)
    late, early = median_ratio(lambda: _started(old), lambda: _started(new), 5)
    return [
        f"{rounds} rounds, {commands} commands",
        f"memory {memory[first] / 1e6:.0f} MB after a tenth, {memory[-1] / 1e6:.0f} MB at the end, "
        f"{grown:+.0f} % at most, wanted below 20",
        f"file {sizes[0] / 1e6:.2f} MB → {sizes[-1] / 1e6:.2f} MB, "
        f"{(sizes[-1] - sizes[0]) / max(commands, 1) / 1e3:.1f} kB a command",
        f"its file is read in {slow / quick:.2f} × the {1e3 * quick:.0f} ms of the morning's",
        f"a start with it until every plot is painted takes {late / early:.2f} × the {early:.1f} s of one",
    ]


def _opened(path: Path) -> None:
    Study.open(path).close()


def _started(path: Path) -> None:
    seconds_to_paint(OPENED.format(str(path)))


def _round(window: Window, turn: int) -> int:
    """How many commands it was."""
    desk, look = window.desk, window.desk.selection
    done = 0
    steps = len(desk.study.state.recipe.treat)
    for command in (
        AddStep("savitzky-golay", SMOOTH.parameters),
        *(ChangeStep(steps, SMOOTH.parameters.__class__(window=width)) for width in (9, 15, 21)),
        KeepComponents(2 + turn % 4),
        SetAside((turn % 100, turn % 100 + 20), "a day's work"),
        BringBack((turn % 100, turn % 100 + 20)),
        RemoveStep(steps),
    ):
        done += bool(desk.do(command))
        _settle(window)
    for page in PAGES:
        window.show_page(page)
        _settle(window)
        look.pick(range(turn % 50, turn % 50 + 5))
        _settle(window)
    for _ in range(3):
        done += bool(desk.study.undo())
        _settle(window)
    for _ in range(3):
        done += bool(desk.study.redo())
        _settle(window)
    look.pick([])
    return done


def _settle(window: Window) -> None:
    """Until the model of now is there; not for all that is found out beside it."""
    end = time.monotonic() + 20.0
    QApplication.processEvents()
    while window.desk.live.busy and time.monotonic() < end:
        QApplication.processEvents()
        time.sleep(0.002)
    QApplication.processEvents()
