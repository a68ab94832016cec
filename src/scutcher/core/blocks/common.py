"""Which directions of the samples are common to which blocks: the search, by angles against chance."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from itertools import combinations

import numpy as np

from scutcher.core.arrays import Floats
from scutcher.core.blocks.chance import chance_bound
from scutcher.core.frozen import frozen

FLOOR = 0.5
"""Agreement, after noise is discounted, from which two components are called the same."""

Set = tuple[int, ...]


@frozen(eq=False)
class Found:
    """A direction that some blocks share.

    Attributes
    ----------
    blocks : tuple of int
    agreement : float
        Smallest squared cosine over the pairs, noise discounted; may be a little above 1.
    scores : dict of block → (n,) float array
        Of length one.
    chance : float
        The largest squared cosine that any two of these blocks reach by chance in what was left of them.
    """

    blocks: Set
    agreement: float
    scores: dict[int, Floats]
    chance: float = float("nan")


@dataclass(eq=False)
class Search:
    """The state of the search: what is left of each block.

    Attributes
    ----------
    bases : list of (n, r) float arrays
        Orthonormal; shrinks as directions are taken.
    trust : list of (r, r) float arrays
        Reliabilities, as a quadratic form on the axes of the bases.
    n : float
        Independent directions.
    level, floor : float
    pairs_n : (B, B) float array or None
        Independent directions for each pair where samples are a series.
    counts : dict of set → int
        How many directions a set shares, where a person decided it.
    """

    bases: list[Floats]
    trust: list[Floats]
    n: float
    level: float = 0.95
    floor: float = FLOOR
    pairs_n: Floats | None = None
    counts: Mapping[Set, int] = field(default_factory=dict)
    taken: np.ndarray = field(init=False)
    _known: dict[Set, list[Found]] = field(init=False, default_factory=dict)

    def __post_init__(self) -> None:
        count = len(self.bases)
        self.taken = np.zeros((count, count))
        self._nothing = np.zeros(len(self.bases[0])) if count else np.empty(0)

    def run(self, allowed: Sequence[Set] | None = None) -> list[Found]:
        """Everything that is common, widest sets first; what is left in the bases is unique."""
        found: list[Found] = []
        for size in range(len(self.bases), 1, -1):
            for chosen in combinations(range(len(self.bases)), size):
                found += self.take_next(chosen, self.counts.get(chosen, 0))
            while (best := self._best(size, allowed)) is not None:
                found.append(best)
                self._take(best)
        return found

    def take_next(self, chosen: Set, count: int) -> list[Found]:
        """So many directions for a set, whatever chance and the floor say: the ones that agree most.

        Where the rule finds none, the one nearest to all of them (the first left singular vector of their
        bases side by side; Kettenring 1971, MAXVAR).
        """
        found: list[Found] = []
        while len(found) < count and all(self.bases[b].shape[1] for b in chosen):
            by_rule = self.common(chosen)
            if by_rule:
                best = max(by_rule, key=lambda one: one.agreement)
            else:
                side = np.column_stack([self.bases[b] for b in chosen])
                nearest = np.linalg.svd(side, full_matrices=False)[0][:, 0]
                best = self._agreed(nearest, chosen)
            found.append(best)
            self._take(best)
        return found

    def _best(self, size: int, allowed: Sequence[Set] | None) -> Found | None:
        best: Found | None = None
        for chosen in combinations(range(len(self.bases)), size):
            if chosen in self.counts or (allowed is not None and chosen not in allowed):
                continue
            for one in self.common(chosen):
                if best is None or one.agreement > best.agreement:
                    best = one
        return best

    def common(self, chosen: Set) -> list[Found]:
        """The directions that all blocks of a set share; looked for once until something is taken."""
        if chosen not in self._known:
            self._known[chosen] = self._common(chosen)
        return self._known[chosen]

    def _common(self, chosen: Set) -> list[Found]:
        count = len(self.bases)
        if len(chosen) == 2:
            b, c = chosen
            level = 1.0 - (1.0 - self.level) / (count * (count - 1) / 2)
            n = self._n(chosen) - float(self.taken[b, c])
            settled = [self.settle(g, chosen) for g in meet(self.bases[b], self.bases[c], n, level)]
            return [one for one in settled if one is not None]
        best: list[Found] = []
        for b in chosen:
            others = tuple(c for c in chosen if c != b)
            before = self.common(others)
            if not before:
                continue
            directions = [_unit(sum(one.scores.values(), self._nothing)) for one in before]
            basis = np.linalg.qr(np.column_stack(directions))[0]
            n = self._n(chosen) - float(max(self.taken[b, c] for c in others))
            level = 1.0 - (1.0 - self.level) / count
            settled = [self.settle(g, chosen) for g in meet(basis, self.bases[b], n, level)]
            own = [one for one in settled if one is not None]
            if _rank_of(own) > _rank_of(best):
                best = own
        return best

    def _n(self, chosen: Set) -> float:
        if self.pairs_n is None:
            return self.n
        return float(min(self.pairs_n[b, c] for b, c in combinations(chosen, 2)))

    def settle(self, g: Floats, chosen: Set) -> Found | None:
        """The direction of each block nearest to g, agreed on; None where they agree too little."""
        found = self._agreed(g, chosen)
        return found if found.agreement >= self.floor else None

    def _agreed(self, g: Floats, chosen: Set) -> Found:
        for _ in range(2):
            g = _unit(sum((self._nearest(b, g)[1] for b in chosen), self._nothing))
        weights, scores, trust = {}, {}, {}
        for b in chosen:
            weights[b], scores[b] = self._nearest(b, g)
            trust[b] = float(weights[b] @ self.trust[b] @ weights[b])
        agreement = np.inf
        for b, c in combinations(chosen, 2):
            believed = trust[b] * trust[c]
            own = float(scores[b] @ scores[c]) ** 2
            agreement = min(agreement, own / believed if believed > 0.0 else 0.0)
        return Found(chosen, float(agreement), scores, self.chance(chosen))

    def chance(self, chosen: Set) -> float:
        """The largest squared cosine that two blocks of a set reach by chance in what is left of them."""
        count = len(self.bases)
        level = 1.0 - (1.0 - self.level) / (count * (count - 1) / 2)
        return max(
            chance_bound(
                self._n((b, c)) - float(self.taken[b, c]),
                self.bases[b].shape[1],
                self.bases[c].shape[1],
                level,
            )
            for b, c in combinations(chosen, 2)
        )

    def _nearest(self, b: int, g: Floats) -> tuple[Floats, Floats]:
        weights = self.bases[b].T @ g
        weights = _unit(weights)
        return weights, self.bases[b] @ weights

    def _take(self, found: Found) -> None:
        """Turn each block so that its direction is the first axis, and drop that axis."""
        self._known.clear()
        for b in found.blocks:
            weights = self.bases[b].T @ found.scores[b]
            turn = _householder(weights)
            self.bases[b] = (self.bases[b] @ turn)[:, 1:]
            self.trust[b] = (turn @ self.trust[b] @ turn)[1:, 1:]
        for b, c in combinations(found.blocks, 2):
            self.taken[b, c] += 1
            self.taken[c, b] += 1


def meet(one: Floats, other: Floats, n: float, level: float) -> list[Floats]:
    """Directions in which two subspaces are nearer than unrelated ones would be, the nearest first."""
    p, q = one.shape[1], other.shape[1]
    if not p or not q:
        return []
    left, cosines, right = np.linalg.svd(one.T @ other)
    found = []
    for k, cosine in enumerate(cosines.tolist()):
        if cosine**2 <= chance_bound(n - k, p - k, q - k, level):
            break
        found.append(_unit(one @ left[:, k] + other @ right[k]))
    return found


def _rank_of(found: Sequence[Found]) -> tuple[int, float]:
    return len(found), min((one.agreement for one in found), default=-np.inf)


def _householder(weights: Floats) -> Floats:
    """The reflection that sends weights, of length one, to ± the first axis."""
    v = weights.copy()
    v[0] += np.copysign(1.0, v[0])
    found: Floats = np.eye(len(v)) - 2.0 * np.outer(v, v) / float(v @ v)
    return found


def _unit(values: Floats) -> Floats:
    length = math.sqrt(float(values @ values))
    found: Floats = values / length if length > 0.0 else values
    return found
