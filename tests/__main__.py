"""Runs every test file in a process of its own, so that a crash at exit is seen, and counts.

The last line is `N passed, N failed`. A process that dies, hangs past its limit or ends with another
exit code than its tests call for counts as a failure.
"""

from __future__ import annotations

import os
import subprocess
import sys
import tempfile
import time
import unittest
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from pathlib import Path

HERE = Path(__file__).parent
LIMIT = 150  # seconds for one file
ALL_LIMIT = 480  # seconds for the whole run
AT_ONCE = 2


@dataclass(frozen=True)
class Outcome:
    """What became of one test file."""

    name: str
    passed: int
    failed: int
    skipped: int
    words: str


class Counting(unittest.TextTestResult):
    """Counts each test once, whatever its subtests do."""

    def __init__(self, *arguments: object, **named: object) -> None:
        super().__init__(*arguments, **named)
        self.bad: set[str] = set()

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
    import faulthandler

    faulthandler.dump_traceback_later(LIMIT - 10, exit=True)
    suite = unittest.defaultTestLoader.loadTestsFromName(module)
    result = unittest.TextTestRunner(resultclass=Counting, verbosity=1).run(suite)
    counts = (result.testsRun - len(result.bad) - len(result.skipped), len(result.bad), len(result.skipped))
    report.write_text(" ".join(map(str, counts)))
    faulthandler.cancel_dump_traceback_later()
    return 0 if result.wasSuccessful() else 1


def run_apart(module: str) -> Outcome:
    """In the parent: one module in a process of its own."""
    with tempfile.TemporaryDirectory() as folder:
        report = Path(folder) / "counts"
        environment = {**os.environ, "XDG_STATE_HOME": folder, "XDG_CONFIG_HOME": folder}
        command = [sys.executable, "-m", "tests", "--one", module, str(report)]
        try:
            done = subprocess.run(
                command, cwd=HERE.parent, env=environment, capture_output=True, text=True, timeout=LIMIT
            )
        except subprocess.TimeoutExpired:
            return Outcome(module, 0, 1, 0, f"{module} hung for {LIMIT} s")
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
            print(f"{outcome.name:<52}{outcome.passed:>4} {mark}", flush=True)
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
