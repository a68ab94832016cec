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


def median_ratio(
    ours: Callable[[], object],
    measure: Callable[[], object],
    times: int = 15,
    ready: Callable[[], object] = lambda: None,
) -> tuple[float, float]:
    """Median seconds of each of two, measured in turn (A B A B …), after one of each to warm up.

    Parameters
    ----------
    ready : done before each, and not counted
    """
    pairs = []
    for _ in range(times + 1):
        ready()
        first = seconds_of(ours)
        ready()
        pairs.append((first, seconds_of(measure)))
    del pairs[0]
    first, second = (sorted(side) for side in zip(*pairs, strict=True))
    return first[times // 2], second[times // 2]


def seconds_of(work: Callable[[], object]) -> float:
    """Seconds of one run."""
    start = time.perf_counter()
    work()
    return time.perf_counter() - start
