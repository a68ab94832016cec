"""Components of several blocks: common to all, to some, or of one alone; scores, loadings, shares."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from copy import deepcopy
from dataclasses import field

import numpy as np

from scutcher.core.arrays import Floats
from scutcher.core.blocks.common import FLOOR, Found, Search, Set
from scutcher.core.blocks.component import Component
from scutcher.core.blocks.reduced import Reduced, check_ranks
from scutcher.core.errors import ModelError
from scutcher.core.frozen import frozen

SAME = 1.0 - 1e-9
"""Squared cosines above which two blocks are the same table."""


@frozen(eq=False)
class BlockModel:
    """All components of several blocks.

    Attributes
    ----------
    blocks : tuple of Reduced
    components : tuple of Component
        Widest sets first, the blocks' own last.
    spreads : dict of set → (m,) float array
        Squared singular values of the block scores of a set side by side, 0 to |S|.
    level, floor : float
        By which they were found.
    weights : tuple of float
        Of the blocks, in the axes of a set.
    search : Search
        What the search has left of each block.
    """

    blocks: tuple[Reduced, ...]
    components: tuple[Component, ...]
    spreads: dict[Set, Floats]
    level: float
    floor: float
    weights: tuple[float, ...]
    search: Search = field(repr=False)

    @property
    def counts(self) -> Mapping[Set, int]:
        """How many components a set shares, where a person decided it."""
        return self.search.counts

    def again(self, blocks: Sequence[Reduced], floor: float | None = None) -> BlockModel:
        """Other samples of the same blocks, compared by the same rules.

        Raises
        ------
        ModelError
            As `block_model`.
        """
        series = self.search.pairs_n is not None
        least = self.floor if floor is None else floor
        return block_model(blocks, self.level, least, series, None, self.counts, self.weights)

    def next_of(self, chosen: Set, count: int) -> list[Found]:
        """The directions that a set would share next, which the rule did not take."""
        return deepcopy(self.search).take_next(chosen, count)

    @property
    def n(self) -> int:
        """Samples."""
        return len(self.blocks[0].z)

    @property
    def sets(self) -> tuple[Set, ...]:
        """Sets of two or more blocks that share something, widest first."""
        return tuple(self.spreads)

    def of(self, chosen: Set) -> tuple[Component, ...]:
        """The components of a set, by their order."""
        return tuple(one for one in self.components if one.blocks == chosen)

    def of_block(self, b: int) -> tuple[Component, ...]:
        """The components that a block takes part in."""
        return tuple(one for one in self.components if b in one.blocks)

    def consensus_of(self, chosen: Set, scores: Mapping[int, Floats]) -> Floats:
        """Consensus scores (k, m) of new rows from their block scores (k, m), of some blocks of the set.

        Raises
        ------
        ModelError
            None of the set's blocks is there.
        """
        own = self.of(chosen)
        there = [b for b in chosen if b in scores]
        if not there or not own:
            raise ModelError("None of these blocks was measured.", "Give at least one.")
        consensus = np.column_stack([one.consensus for one in own])
        seen = {b: np.column_stack([one.scores[b] for one in own]).T @ consensus for b in there}
        right = np.sum([scores[b] @ seen[b] for b in there], axis=0)
        inner = np.sum([seen[b].T @ seen[b] for b in there], axis=0)
        found: Floats = np.linalg.solve(inner.T, right.T).T
        return found


def block_model(
    blocks: Sequence[Reduced],
    level: float = 0.95,
    floor: float = FLOOR,
    series: bool = False,
    allowed: Sequence[Set] | None = None,
    counts: Mapping[Set, int] | None = None,
    weights: Sequence[float] | None = None,
) -> BlockModel:
    """What two to five blocks share.

    Parameters
    ----------
    blocks : two to five `Reduced` of the same n samples
    level : float
        Coverage of the chance bounds, over all pairs.
    floor : float
        Agreement from which components are the same.
    series : bool
        Whether the samples follow each other: then blocks that wander in time are not taken for common.
    allowed : sets of blocks, optional
        The only ones that may share something.
    counts : dict of set → int, optional
        How many components a set shares, where a person decides it and not the rule.
    weights : (B,) floats, optional
        Of the blocks in what decides the axes inside a set: its first component explains most of the weighted
        shares. Each the same without; what is common does not depend on them.

    Raises
    ------
    ModelError
        Too few samples, ranks that always meet, the same table twice.

    References
    ----------
    Kettenring, Biometrika 58 (1971) 433–451; Feng, Jiang, Hannig & Marron, J. Multivar. Anal. 166 (2018)
    241–265 (angles); Löfstedt & Trygg, J. Chemometrics 25 (2011) 441–455 (widest sets first).
    """
    if not 2 <= len(blocks) <= 5:
        raise ModelError(f"{len(blocks)} blocks were given.", "Give two to five.")
    n = len(blocks[0].z) - 1
    if any(len(block.z) != n + 1 for block in blocks):
        raise ModelError("The blocks have different samples.", "Match them first.")
    check_ranks(blocks, n)
    _check_same(blocks)
    search = Search(
        [block.scores.copy() for block in blocks],
        [np.diag(block.reliability) for block in blocks],
        float(n),
        level,
        floor,
        _series_n(blocks, n) if series else None,
        dict(counts or {}),
    )
    found = search.run(allowed)
    components: list[Component] = []
    spreads: dict[Set, Floats] = {}
    for chosen in dict.fromkeys(one.blocks for one in found):
        of_set = [one for one in found if one.blocks == chosen]
        taken = {b: np.column_stack([one.scores[b] for one in of_set]) for b in chosen}
        spread, shared = _shared(blocks, chosen, taken, of_set, weights or [1.0] * len(blocks))
        spreads[chosen] = spread
        components += shared
    for b, block in enumerate(blocks):
        components += _own(block, b, search.bases[b])
    own = tuple(weights or [1.0] * len(blocks))
    return BlockModel(tuple(blocks), tuple(components), spreads, level, floor, own, search)


def _check_same(blocks: Sequence[Reduced]) -> None:
    for place, one in enumerate(blocks):
        for other in blocks[place + 1 :]:
            cosines = np.linalg.svd(one.scores.T @ other.scores, compute_uv=False)
            if len(cosines) == max(one.r, other.r) and (cosines**2 > SAME).all():
                raise ModelError(f"{one.name} and {other.name} are the same table.", "Leave one of them out.")


def _series_n(blocks: Sequence[Reduced], n: int) -> Floats:
    """Independent directions of each pair of blocks whose scores wander (Bartlett 1935)."""
    lags = [max(float(np.max(np.sum(block.scores[1:] * block.scores[:-1], axis=0))), 0.0) for block in blocks]
    product = np.outer(lags, lags)
    found: Floats = n * (1.0 - product) / (1.0 + product)
    return found


def _shared(
    blocks: Sequence[Reduced],
    chosen: Set,
    taken: dict[int, Floats],
    of_set: Sequence[Found],
    weights: Sequence[float],
) -> tuple[Floats, list[Component]]:
    """Consensus and block scores of a set, its axes by variance."""
    m = len(of_set)
    side = np.column_stack([taken[b] for b in chosen])
    u, s, _ = np.linalg.svd(side, full_matrices=False)
    start, spread = u[:, :m], s[:m] ** 2
    inner = np.zeros((m, m))
    for b in chosen:
        seen = blocks[b].z.T @ start
        inner += weights[b] * (seen.T @ seen) / blocks[b].total
    values, axes = np.linalg.eigh(inner)
    consensus = start @ axes[:, np.argsort(values)[::-1]]
    scores = {}
    for b in chosen:
        left, _, right = np.linalg.svd(taken[b].T @ consensus)
        scores[b] = taken[b] @ left @ right
    found = []
    for a in range(m):
        own = {b: scores[b][:, a] for b in chosen}
        found.append(_component(blocks, chosen, a, consensus[:, a], own, of_set[a]))
    return spread, found


def _own(block: Reduced, b: int, basis: Floats) -> list[Component]:
    """What is left of a block, by variance."""
    if not basis.shape[1]:
        return []
    left, _, _ = np.linalg.svd(basis.T @ block.z, full_matrices=False)
    scores = basis @ left
    blocks = {b: block}
    return [_component(blocks, (b,), a, scores[:, a], {b: scores[:, a]}) for a in range(scores.shape[1])]


def _component(
    blocks: Mapping[int, Reduced] | Sequence[Reduced],
    chosen: Set,
    order: int,
    consensus: Floats,
    scores: dict[int, Floats],
    found: Found | None = None,
) -> Component:
    loadings = {b: blocks[b].z.T @ scores[b] for b in chosen}
    stacked = np.concatenate([loadings[b] / np.sqrt(blocks[b].total) for b in chosen])
    sign = 1.0 if stacked[int(np.abs(stacked).argmax())] >= 0.0 else -1.0
    weights = {
        b: sign * blocks[b].directions @ ((blocks[b].scores.T @ scores[b]) / blocks[b].singular)
        for b in chosen
    }
    shares = {b: float(loadings[b] @ loadings[b]) / blocks[b].total for b in chosen}
    return Component(
        chosen,
        order,
        sign * consensus,
        {b: sign * scores[b] for b in chosen},
        {b: sign * loadings[b] for b in chosen},
        weights,
        float("nan") if found is None else found.agreement,
        shares,
        float("nan") if found is None else found.chance,
    )
