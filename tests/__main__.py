"""Runs every test file in a process of its own, so that a crash at exit is seen, and counts.

The last line is `N passed, N failed`. A process that dies, hangs in one test or ends with another exit
code than its tests call for counts as a failure. The limits are there to end what hangs: a busy machine
may take ten times as long as a quiet one, so nothing here measures speed.
"""

from __future__ import annotations

import faulthandler
import gc
import importlib
import os
import pkgutil
import resource
import shutil
import signal
import sys
import tempfile
import time
import unittest
from collections.abc import Iterator
from contextlib import nullcontext
from dataclasses import dataclass, fields, is_dataclass
from pathlib import Path

import scutcher
from scutcher.core.numeric.threads import one_thread

HERE = Path(__file__).parent
HANGS = 400  # seconds for one test
ALL_LIMIT = 3600  # seconds for the whole run
AT_ONCE = min(max(os.cpu_count() or 2, 2) + 1, 4)
"""One waits while others compute; more would want much memory."""

PRELOADED = (
    "scipy.linalg", "scipy.special", "scipy.signal", "pandas", "h5py", "openpyxl", "matplotlib.figure",
    "jinja2", "PySide6.QtTest", "scutcher.desk.painting.area", "scutcher.desk.shell.window", "scutcher.cli",
    "tests.desk.driving",
)  # fmt: skip


@dataclass(frozen=True)
class Outcome:
    """What became of one test file."""

    name: str
    passed: int
    failed: int
    skipped: int
    words: str
    seconds: float = 0.0
    work: float = 0.0  # seconds of a processor


@dataclass(frozen=True)
class Running:
    """A test file whose process runs."""

    module: str
    pid: int
    folder: Path
    started: float


class Counting(unittest.TextTestResult):
    """Counts each test once, whatever its subtests do."""

    def __init__(self, *arguments: object, **named: object) -> None:
        super().__init__(*arguments, **named)
        self.bad: set[str] = set()

    def startTest(self, test: unittest.TestCase) -> None:
        faulthandler.dump_traceback_later(HANGS, exit=True)
        super().startTest(test)

    def addError(self, test: unittest.TestCase, err: object) -> None:
        super().addError(test, err)
        self.bad.add(test.id())

    def addFailure(self, test: unittest.TestCase, err: object) -> None:
        super().addFailure(test, err)
        self.bad.add(test.id())

    def addSubTest(self, test: unittest.TestCase, subtest: unittest.TestCase, err: object) -> None:
        super().addSubTest(test, subtest, err)
        if err is not None:
            self.bad.add(test.id())


def run_one(module: str, report: Path) -> int:
    """In the child: run a module's tests and write the counts."""
    faulthandler.dump_traceback_later(HANGS, exit=True)
    suite = unittest.defaultTestLoader.loadTestsFromName(module)
    with nullcontext() if module.endswith(".test_threads") else one_thread():  # others run beside it
        result = unittest.TextTestRunner(resultclass=Counting, verbosity=1).run(suite)
    counts = (result.testsRun - len(result.bad) - len(result.skipped), len(result.bad), len(result.skipped))
    report.write_text(" ".join(map(str, counts)))
    faulthandler.cancel_dump_traceback_later()
    return 0 if result.wasSuccessful() else 1


def preload() -> None:
    """Read what most tests read, once for all of them: a process that is forked has it."""
    for name in PRELOADED:
        importlib.import_module(name)
    for part in pkgutil.walk_packages(scutcher.__path__, "scutcher."):
        module = importlib.import_module(part.name) if not part.name.endswith("__main__") else None
        for kind in list(vars(module).values()) if module else ():
            if isinstance(kind, type) and is_dataclass(kind):
                fields(kind)  # works it out
    gc.freeze()


def begin(module: str) -> Running:
    """Run a module's tests in a forked process, which ends as any other does."""
    folder = Path(tempfile.mkdtemp())
    started = time.monotonic()
    pid = os.fork()
    if pid == 0:
        words = os.open(folder / "words", os.O_WRONLY | os.O_CREAT, 0o600)
        os.dup2(words, 1)
        os.dup2(words, 2)
        state = folder / "state"
        state.mkdir()
        os.environ.update(XDG_STATE_HOME=str(state), XDG_CONFIG_HOME=str(state), LC_ALL="C.UTF-8")
        sys.exit(run_one(module, folder / "counts"))
    return Running(module, pid, folder, started)


def outcome_of(running: Running, status: int, used: resource.struct_rusage) -> Outcome:
    """What became of a process that has ended, and what it and its own processes used."""
    code = os.waitstatus_to_exitcode(status)
    report, words = running.folder / "counts", (running.folder / "words").read_text(errors="replace")
    seconds, module = time.monotonic() - running.started, running.module
    work = used.ru_utime + used.ru_stime
    if report.exists():
        passed, failed, skipped = map(int, report.read_text().split())
        if code == (1 if failed else 0):
            found = Outcome(module, passed, failed, skipped, words if failed else "", seconds, work)
        else:
            told = f"{words}\n{module} ended with {code} after its tests"
            found = Outcome(module, passed, failed + 1, skipped, told, seconds, work)
    else:
        found = Outcome(module, 0, 1, 0, f"{words}\n{module} crashed: {code}", seconds, work)
    shutil.rmtree(running.folder, ignore_errors=True)
    return found


def outcomes(found: list[str], until: float) -> Iterator[Outcome]:
    """One module after the other, so many at once; those that still run at a time are ended."""
    waiting, running = found[::-1], dict[int, Running]()
    while waiting or running:
        while waiting and len(running) < AT_ONCE:
            begun = begin(waiting.pop())
            running[begun.pid] = begun
        pid, status, used = os.wait4(-1, os.WNOHANG)
        if pid in running:
            yield outcome_of(running.pop(pid), status, used)
        elif time.monotonic() > until:
            for one in running:
                os.kill(one, signal.SIGKILL)
            yield Outcome("the whole run", 0, 1, 0, f"It took longer than {ALL_LIMIT} s.")
            return
        else:
            time.sleep(0.02)


def modules(word: str) -> list[str]:
    """The test modules whose name has a word; the slow ones of the desk first."""
    files = sorted(HERE.rglob("test_*.py"), key=lambda path: ("desk" not in path.parts, path))
    names = [".".join(path.relative_to(HERE.parent).with_suffix("").parts) for path in files]
    return [name for name in names if word in name]


def main(arguments: list[str]) -> int:
    """Run all, print what failed and the counts."""
    preload()
    every = []
    for outcome in outcomes(modules(arguments[0] if arguments else ""), time.monotonic() + ALL_LIMIT):
        every.append(outcome)
        mark = "FAILED" if outcome.failed else "ok"
        taken = f"{outcome.seconds:>7.1f} s, {outcome.work:>6.1f} of a processor"
        print(f"{outcome.name:<52}{outcome.passed:>4} {mark:<6}{taken}", flush=True)
        if outcome.words:
            print(outcome.words, flush=True)
    passed = sum(outcome.passed for outcome in every)
    failed = sum(outcome.failed for outcome in every)
    skipped = sum(outcome.skipped for outcome in every)
    print(f"{passed} passed, {failed} failed" + (f", {skipped} skipped" if skipped else ""), flush=True)
    return 0 if failed == 0 and passed > 0 else 1


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
