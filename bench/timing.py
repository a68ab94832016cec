"""The best of several runs: these machines are shared, so a single time says little."""

from __future__ import annotations

import time
from collections.abc import Callable


def best_seconds(work: Callable[[], object], times: int = 15) -> float:
    """Seconds of the fastest of several runs, after one to warm up."""
    work()
    found = []
    for _ in range(times):
        start = time.perf_counter()
        work()
        found.append(time.perf_counter() - start)
    return min(found)


def best_of_both(
    ours: Callable[[], object], measure: Callable[[], object], times: int
) -> tuple[float, float]:
    """The best seconds of each of two, in turns: what else the machine does meets both alike."""
    found = [(best_seconds(ours, 1), best_seconds(measure, 1)) for _ in range(times)]
    return min(a for a, _ in found), min(b for _, b in found)
