"""Mutated files of every kind: only clear errors, no traceback, no hang, no memory beyond a limit."""

from __future__ import annotations

import sys
import tempfile
import time
import warnings
from collections import Counter
from pathlib import Path

import numpy as np

from bench.fuzz_seeds import all_seeds
from scutcher.core.errors import InputError

INPUTS = 50_000
PATIENCE = 10.0  # seconds for one file of a few kilobytes
TIMES, MORE = 10, 200 * 2**20
"""Bytes that reading a file may take: so many times its own, and so many more."""


def run(count: int, seed: int = 0) -> Counter[str]:
    """Read mutated files; count what was read and what was refused with a sentence, by the kind of file.

    Raises
    ------
    AssertionError
        A file hung, took memory, or its error was not one that a person can act on.
    """
    found: Counter[str] = Counter()
    warnings.simplefilter("ignore")
    rng, seeds = np.random.default_rng(seed), all_seeds()
    with tempfile.TemporaryDirectory() as folder:
        for trial in range(count):
            one = seeds[int(rng.integers(len(seeds)))]
            path = Path(folder) / f"f{one.suffix}"
            path.write_bytes(one.mutate(one.content, rng))
            before = _begin_peak() if trial > WARM else None
            start = time.perf_counter()
            try:
                one.take(path)
                found[f"{one.suffix} read"] += 1
            except InputError as error:
                assert error.problem and error.remedy and "\n" not in error.problem, (trial, str(error))
                found[f"{one.suffix} refused"] += 1
            except Exception as error:
                raise AssertionError(f"trial {trial} of seed {seed} ({one.suffix}): {error!r}") from error
            assert time.perf_counter() - start < PATIENCE, f"trial {trial} of seed {seed} took too long"
            most = MORE + TIMES * path.stat().st_size if path.exists() else MORE
            taken = 0 if before is None else _memory("VmHWM") - before
            assert taken < most, f"trial {trial} of seed {seed} ({one.suffix}) took {taken / 2**20:.0f} MB"
    return found


WARM = 400
"""Inputs after which every library has been loaded."""


def _begin_peak() -> int | None:
    """Bytes in use now, from which the peak is counted anew; None where the system does not tell."""
    try:
        Path("/proc/self/clear_refs").write_text("5")
        return _memory("VmRSS")
    except OSError:
        return None


def _memory(name: str) -> int:
    for line in Path("/proc/self/status").read_text().splitlines():
        if line.startswith(name):
            return int(line.split()[1]) * 1024
    return 0


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
