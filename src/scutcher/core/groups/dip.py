"""One hump or two: the dip of a distribution from the nearest one with a single hump."""

from __future__ import annotations

from itertools import pairwise

import numpy as np

from scutcher.core.arrays import Floats, Integers
from scutcher.core.frozen import frozen
from scutcher.core.progress import Watch, tell

SIMULATIONS = 999


@frozen
class Dip:
    """How far values are from one hump.

    Attributes
    ----------
    dip : float
        Largest distance between the distribution of the values and the nearest with one hump; from
        1/(2n) to 0.25.
    p_value : float
        How often as many uniform values have a dip as large.
    """

    dip: float
    p_value: float


def dip_statistic(values: Floats) -> float:
    """The dip of n values.

    Half of the largest gap that is left between the greatest convex minorant before the hump and the least
    concave majorant after it, narrowed until it no longer falls.

    References
    ----------
    Hartigan & Hartigan, Ann. Stat. 13 (1985) 70–84; Hartigan, Appl. Stat. 34 (1985) 320–325 (AS 217).
    """
    x = np.sort(np.asarray(values, dtype=np.float64))
    n = len(x)
    if n < 4 or x[0] == x[-1]:
        return 0.5 / max(n, 1)
    minorant, majorant = _minorants(x), _majorants(x)
    low, high, dip = 0, n - 1, 1.0
    while True:
        convex = _chain(minorant, high, low)[::-1]  # from low to high
        concave = _chain(majorant, low, high)
        gap, new_low, new_high = _widest(x, convex, concave)
        if low == 0 and high == n - 1 and len(convex) == 2 and len(concave) == 2:
            gap = 1.0
        if gap <= dip:
            break
        left = _deviation(x, _within(convex, low, new_low), True)
        right = _deviation(x, _within(concave, new_high, high), False)
        dip = max(dip, left, right)
        if (new_low, new_high) == (low, high):
            break
        low, high = new_low, new_high
    return dip / (2.0 * n)


def _minorants(x: Floats) -> list[int]:
    """For each place the place before it on the greatest convex minorant of what stands up to it."""
    before = [0] * len(x)
    for place in range(1, len(x)):
        before[place] = place - 1
        while True:
            mid = before[place]
            first = before[mid]
            if mid == 0 or (x[place] - x[mid]) * (mid - first) < (x[mid] - x[first]) * (place - mid):
                break
            before[place] = first
    return before


def _majorants(x: Floats) -> list[int]:
    """For each place the place after it on the least concave majorant of what stands from it on."""
    n = len(x)
    after = [n - 1] * n
    for place in range(n - 2, -1, -1):
        after[place] = place + 1
        while True:
            mid = after[place]
            last = after[mid]
            if mid == n - 1 or (x[place] - x[mid]) * (mid - last) < (x[mid] - x[last]) * (place - mid):
                break
            after[place] = last
    return after


def _chain(steps: list[int], start: int, end: int) -> list[int]:
    """The places from start along the steps up to end."""
    found = [start]
    while (found[-1] > end) if start > end else (found[-1] < end):
        found.append(steps[found[-1]])
    return found


def _widest(x: Floats, convex: list[int], concave: list[int]) -> tuple[float, int, int]:
    """The widest gap between the two curves at their corners, in counts, and the hump there."""
    best, low, high = 0.0, convex[0], convex[-1]
    under = np.interp(x[concave], x[convex], convex)
    over = np.interp(x[convex], x[concave], concave)
    for place, corner in enumerate(concave):
        gap = corner - float(under[place]) + 1.0
        if gap > best:
            at = int(np.searchsorted(convex, corner, side="right")) - 1
            best, low, high = gap, convex[max(at, 0)], corner
    for place, corner in enumerate(convex):
        gap = float(over[place]) - corner + 1.0
        if gap > best:
            at = int(np.searchsorted(concave, corner, side="left"))
            best, low, high = gap, corner, concave[min(at, len(concave) - 1)]
    return best, min(low, high), max(low, high)


def _within(chain: list[int], low: int, high: int) -> list[int]:
    return [place for place in chain if low <= place <= high]


def _deviation(x: Floats, corners: list[int], convex: bool) -> float:
    """How far the counts are from a chain of straight pieces, at most."""
    most = 1.0
    for start, end in pairwise(corners):
        if end - start < 2 or x[end] == x[start]:
            continue
        inner = np.arange(start, end + 1)
        line = (x[inner] - x[start]) * (end - start) / (x[end] - x[start])
        away = (inner - start - line + 1.0) if convex else (line - (inner - start - 1.0))
        most = max(most, float(away.max()))
    return most


def dip_test(
    values: Floats, simulations: int = SIMULATIONS, seed: int = 1, watch: Watch | None = None
) -> Dip:
    """The dip, and how often as many uniform values have one as large (the least favourable single hump).

    Raises
    ------
    Stopped
    """
    dip = dip_statistic(values)
    rng = np.random.default_rng(seed)
    as_large = 0
    for turn in range(simulations):
        tell(watch, turn / simulations)
        as_large += dip_statistic(rng.random(len(values))) >= dip - 1e-12
    return Dip(dip, (1.0 + as_large) / (1.0 + simulations))


def along_line(scores: Floats, codes: Integers, one: int, two: int) -> Floats:
    """Where samples lie along the line of two centres: 0 at the first, 1 at the second; any dimension."""
    first, second = scores[codes == one].mean(axis=0), scores[codes == two].mean(axis=0)
    way = second - first
    length = float(way @ way)
    found: Floats = (scores - first) @ way / length if length > 0.0 else np.zeros(len(scores))
    return found
