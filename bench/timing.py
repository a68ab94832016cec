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
