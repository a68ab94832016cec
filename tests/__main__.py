"""Runs every test file in a process of its own, so that a crash at exit is seen, and counts.

The last line is `N passed, N failed`. A process that dies, hangs in one test or ends with another exit
code than its tests call for counts as a failure. The limits are there to end what hangs: a busy machine
may take ten times as long as a quiet one, so nothing here measures speed.
"""

from __future__ import annotations

import faulthandler
import os
import subprocess
import sys
import tempfile
import time
import unittest
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, replace
from pathlib import Path

HERE = Path(__file__).parent
HANGS = 400  # seconds for one test
ALL_LIMIT = 3600  # seconds for the whole run
AT_ONCE = 2


@dataclass(frozen=True)
class Outcome:
    """What became of one test file."""

    name: str
    passed: int
    failed: int
    skipped: int
    words: str
    seconds: float = 0.0


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
    result = unittest.TextTestRunner(resultclass=Counting, verbosity=1).run(suite)
    counts = (result.testsRun - len(result.bad) - len(result.skipped), len(result.bad), len(result.skipped))
    report.write_text(" ".join(map(str, counts)))
    faulthandler.cancel_dump_traceback_later()
    return 0 if result.wasSuccessful() else 1


def run_apart(module: str) -> Outcome:
    """In the parent: one module in a process of its own, timed."""
    started = time.monotonic()
    return replace(_run_apart(module), seconds=time.monotonic() - started)


def _run_apart(module: str) -> Outcome:
    with tempfile.TemporaryDirectory() as folder:
        report = Path(folder) / "counts"
        own = {"XDG_STATE_HOME": folder, "XDG_CONFIG_HOME": folder, "LC_ALL": "C.UTF-8"}
        environment = {**os.environ, **own}
        command = [sys.executable, "-m", "tests", "--one", module, str(report)]
        try:
            done = subprocess.run(
                command, cwd=HERE.parent, env=environment, capture_output=True, text=True, timeout=ALL_LIMIT
            )
        except subprocess.TimeoutExpired:
            return Outcome(module, 0, 1, 0, f"{module} hung for {ALL_LIMIT} s")
        if not report.exists():
            return Outcome(
                module, 0, 1, 0, f"{done.stdout}{done.stderr}\n{module} crashed: {done.returncode}"
            )
        passed, failed, skipped = map(int, report.read_text().split())
        if done.returncode != (1 if failed else 0):
            words = f"{done.stderr}\n{module} ended with {done.returncode} after its tests"
            return Outcome(module, passed, failed + 1, skipped, words)
        return Outcome(module, passed, failed, skipped, done.stderr if failed else "")


def modules(word: str) -> list[str]:
    """The test modules whose name has a word; the slow ones of the desk first."""
    files = sorted(HERE.rglob("test_*.py"), key=lambda path: ("desk" not in path.parts, path))
    names = [".".join(path.relative_to(HERE.parent).with_suffix("").parts) for path in files]
    return [name for name in names if word in name]


def main(arguments: list[str]) -> int:
    """Run all, print what failed and the counts."""
    if arguments[:1] == ["--one"]:
        return run_one(arguments[1], Path(arguments[2]))
    started = time.monotonic()
    found = modules(arguments[0] if arguments else "")
    outcomes = []
    with ThreadPoolExecutor(AT_ONCE) as pool:
        for outcome in pool.map(run_apart, found):
            outcomes.append(outcome)
            mark = "FAILED" if outcome.failed else "ok"
            print(f"{outcome.name:<52}{outcome.passed:>4} {mark:<6}{outcome.seconds:>7.1f} s", flush=True)
            if outcome.words:
                print(outcome.words, flush=True)
            if time.monotonic() - started > ALL_LIMIT:
                pool.shutdown(wait=False, cancel_futures=True)
                outcomes.append(Outcome("the whole run", 0, 1, 0, ""))
                print(f"The whole run took longer than {ALL_LIMIT} s.", flush=True)
                break
    passed = sum(outcome.passed for outcome in outcomes)
    failed = sum(outcome.failed for outcome in outcomes)
    skipped = sum(outcome.skipped for outcome in outcomes)
    print(f"{passed} passed, {failed} failed" + (f", {skipped} skipped" if skipped else ""), flush=True)
    return 0 if failed == 0 and passed > 0 else 1


if __name__ == "__main__":
    sys.exit(main(sys.argv[1:]))
