"""A tree of things from their distances: the nearest are joined first."""

from __future__ import annotations

from typing import Literal

import numpy as np

from scutcher.core.arrays import Floats, Integers
from scutcher.core.frozen import frozen

Linkage = Literal["average", "ward", "complete"]


@frozen(eq=False)
class Tree:
    """How m things are joined, the lowest joint first.

    Attributes
    ----------
    pairs : (m − 1, 2) int array
        What each joint joins: things 0…m−1, and joint j as m + j.
    heights : (m − 1,) float array
        In the unit of the distances, never falling.
    order : (m,) int array
        The things in an order in which no branches cross and the ends of neighbouring branches are near.
    """

    pairs: Integers
    heights: Floats
    order: Integers

    def cut(self, count: int) -> Integers:
        """The group of each thing, (m,), where the tree falls into so many; numbered along the order."""
        m = len(self.order)
        groups = np.arange(2 * m - 1)
        for joint in range(m - max(1, min(count, m))):
            groups[self.pairs[joint]] = m + joint
        for node in range(2 * m - 2, -1, -1):  # a joint is numbered after what it joins
            groups[node] = groups[groups[node]]
        _, first, inverse = np.unique(groups[self.order], return_index=True, return_inverse=True)
        ranks = np.argsort(np.argsort(first))
        found = np.empty(m, dtype=np.intp)
        found[self.order] = ranks[inverse]
        return found


def tree(distances: Floats, linkage: Linkage = "average") -> Tree:
    """Join the two nearest until one is left.

    Parameters
    ----------
    distances : (m, m) float array
        Symmetric; for Ward's linkage Euclidean. Not changed.
    linkage : "average" of all pairs (Sokal & Michener 1958), "complete" (the farthest pair), or "ward" (least
        growth of the squares within; Ward, J. Am. Stat. Assoc. 58 (1963) 236–244)
        Updated by Lance & Williams, Computer Journal 9 (1967) 373–380, along chains of nearest neighbours
        (Murtagh, Computer Journal 26 (1983) 354–359).
    """
    m = len(distances)
    if m < 2:
        return Tree(np.empty((0, 2), np.intp), np.empty(0), np.arange(m))
    away = np.array(distances, dtype=np.float64) ** (2 if linkage == "ward" else 1)
    np.fill_diagonal(away, np.inf)
    sizes, alive = np.ones(m), np.ones(m, dtype=bool)
    joined: list[tuple[float, int, int]] = []
    chain: list[int] = []
    while len(joined) < m - 1:
        if not chain:
            chain.append(int(alive.argmax()))
        while True:
            here = chain[-1]
            nearest = int(away[here].argmin())
            if len(chain) > 1 and away[here, chain[-2]] <= away[here, nearest]:
                nearest = chain[-2]
                break
            chain.append(nearest)
        del chain[-2:]
        joined.append((float(away[here, nearest]), here, nearest))
        _merge(away, sizes, alive, here, nearest, linkage)
    return _numbered(joined, m, linkage, distances)


def _merge(away: Floats, sizes: Floats, alive: np.ndarray, one: int, two: int, linkage: Linkage) -> None:
    """Put what joins two in the place of the second, and its distances with it."""
    a, b, others = sizes[one], sizes[two], alive.copy()
    others[[one, two]] = False
    first, second = away[one, others], away[two, others]
    if linkage == "complete":
        fresh = np.maximum(first, second)
    elif linkage == "average":
        fresh = (a * first + b * second) / (a + b)
    else:
        c = sizes[others]
        fresh = ((a + c) * first + (b + c) * second - c * away[one, two]) / (a + b + c)
    away[two, others] = away[others, two] = fresh
    away[one, :] = away[:, one] = np.inf
    sizes[two], alive[one] = a + b, False


def _numbered(joined: list[tuple[float, int, int]], m: int, linkage: Linkage, distances: Floats) -> Tree:
    """The joints by height, numbered after what they join, and the order of the things."""
    order = sorted(range(len(joined)), key=lambda place: joined[place][0])
    holder = list(range(m))  # of each place, the thing or joint that stands in it now
    pairs = np.empty((m - 1, 2), dtype=np.intp)
    branches: dict[int, list[int]] = {thing: [thing] for thing in range(m)}
    heights = np.empty(m - 1)
    root = _Roots(m)
    for joint, place in enumerate(order):
        height, one, two = joined[place]
        one, two = root.of(one), root.of(two)
        left, right = holder[one], holder[two]
        pairs[joint] = left, right
        heights[joint] = height
        root.join(one, two)
        holder[two] = m + joint
        branches[m + joint] = _side_by_side(branches.pop(left), branches.pop(right), distances)
    if linkage == "ward":
        heights = np.sqrt(np.maximum(heights, 0.0))
    return Tree(pairs, np.maximum.accumulate(heights), np.array(branches[2 * m - 2], dtype=np.intp))


class _Roots:
    """Which place stands for each thing by now."""

    def __init__(self, m: int) -> None:
        self._above = list(range(m))

    def of(self, thing: int) -> int:
        while self._above[thing] != thing:
            self._above[thing] = self._above[self._above[thing]]
            thing = self._above[thing]
        return thing

    def join(self, one: int, two: int) -> None:
        self._above[one] = two


def _side_by_side(left: list[int], right: list[int], distances: Floats) -> list[int]:
    """Two branches next to each other, each turned so that the ends that meet are near."""
    ways = [(a, b) for a in (left, left[::-1]) for b in (right, right[::-1])]
    a, b = min(ways, key=lambda way: float(distances[way[0][-1], way[1][0]]))
    return a + b
