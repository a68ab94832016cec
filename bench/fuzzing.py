"""Mutated files of every kind: only clear errors, no traceback, no hang, no memory beyond a limit."""

from __future__ import annotations

import os
import sys
import tempfile
import time
import warnings
from collections import Counter
from contextlib import suppress
from pathlib import Path

import numpy as np

from bench.fuzz_seeds import Seed, all_seeds
from bench.memory import forget_peak, in_use
from scutcher.core.errors import InputError

INPUTS = 50_000
PATIENCE, HANGS = 10.0, 120.0
"""Seconds for one file of a few kilobytes: of the processor, and by the clock on whatever machine."""

TIMES, MORE = 10, 200 * 2**20
"""Bytes that reading a file may take: so many times its own, and so many more."""

WARM = 400
"""Inputs after which every library has been loaded."""


def run(count: int, seed: int = 0) -> Counter[str]:
    """Read mutated files; count what was read and what was refused with a sentence, by the kind of file.

    Raises
    ------
    AssertionError
        A file hung, took memory, or its error was not one that a person can act on: all of them.
    """
    found: Counter[str] = Counter()
    troubles: list[str] = []
    warnings.simplefilter("ignore")
    rng, seeds = np.random.default_rng(seed), all_seeds()
    with tempfile.TemporaryDirectory() as folder:
        for trial in range(count):
            one = seeds[int(rng.integers(len(seeds)))]
            path = Path(folder) / f"f{one.suffix}"
            path.write_bytes(one.mutate(one.content, rng))
            outcome, trouble = _taken(one, path, trial > WARM)
            found[f"{one.suffix} {outcome}"] += 1
            if trouble:
                troubles.append(f"trial {trial} of seed {seed} ({one.suffix}): {trouble}")
                print(troubles[-1], file=sys.stderr, flush=True)
    assert not troubles, "\n".join(troubles)
    return found


def _taken(one: Seed, path: Path, measured: bool) -> tuple[str, str]:
    """Whether it was read or refused, and what was wrong with that."""
    most = MORE + TIMES * path.stat().st_size
    before = None
    if measured:
        with suppress(OSError):  # where the kernel does not tell it
            before = forget_peak()
    start, used = time.perf_counter(), _used()
    outcome, trouble = "read", ""
    try:
        one.take(path)
    except InputError as error:
        outcome = "refused"
        if not error.problem or not error.remedy or "\n" in error.problem:
            trouble = f"no sentence: {error}"
    except Exception as error:
        outcome, trouble = "refused", repr(error)
    taken = 0 if before is None else in_use("VmHWM") - before
    if taken > most:
        trouble = trouble or f"it took {taken / 2**20:.0f} MB"
    if _used() - used > PATIENCE or time.perf_counter() - start > HANGS:
        trouble = trouble or "it took too long"
    return outcome, trouble


def _used() -> float:
    """Seconds of a processor, of this process and those that it waited for."""
    times = os.times()
    return times.user + times.system + times.children_user + times.children_system


def report(*arguments: str) -> list[str]:
    """The lines of this bench; SEED and N as arguments."""
    seed = int(arguments[0]) if arguments else 0
    count = int(arguments[1]) if len(arguments) > 1 else INPUTS
    start = time.perf_counter()
    found = run(count, seed)
    seconds = time.perf_counter() - start
    read = sum(number for name, number in found.items() if name.endswith("read"))
    kinds = len({name.split()[0] for name in found})
    return [
        f"{count} mutated files of {kinds} kinds in {seconds:.0f} s: {read} read, {count - read} refused "
        "with a sentence, no other outcome",
        ", ".join(f"{name} {number}" for name, number in sorted(found.items())),
    ]


if __name__ == "__main__":
    print(run(int(sys.argv[1]), int(sys.argv[2])))
