"""Agreement of blocks on samples that were left out, by chance, and when the samples are drawn again."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from itertools import combinations

import numpy as np

from scutcher.core.arrays import Floats, Integers
from scutcher.core.blocks.common import Set
from scutcher.core.blocks.consensus import BlockModel
from scutcher.core.blocks.reduced import Reduced, decomposed, reduced
from scutcher.core.errors import ModelError
from scutcher.core.frozen import frozen
from scutcher.core.progress import Watch, tell

Refit = Callable[[Integers, Integers], tuple[list[Floats], list[Floats]]]
"""Training and left-out rows of the samples → each block's Z of both, by what the training rows teach."""


@frozen(eq=False)
class HeldOut:
    """Of one shared component.

    Attributes
    ----------
    blocks : tuple of int
    order : int
    segments : int
        In which it was found again.
    of : int
        Segments altogether.
    agreement : float
        Smallest squared correlation over pairs of left-out block scores, signed; NaN where never found.
    alike : float
        Mean |cosine| of its consensus with that of the whole model, over segments that found it.
    """

    blocks: Set
    order: int
    segments: int
    of: int
    agreement: float
    alike: float


def centred_refit(blocks: Sequence[Reduced]) -> Refit:
    """Means of the training rows taken off; for blocks that need no more to be learned."""

    def refit(train: Integers, left: Integers) -> tuple[list[Floats], list[Floats]]:
        means = [block.z[train].mean(axis=0) for block in blocks]
        pairs = list(zip(blocks, means, strict=True))
        return [b.z[train] - mean for b, mean in pairs], [b.z[left] - mean for b, mean in pairs]

    return refit


@frozen(eq=False)
class Without:
    """The blocks compared without some samples, and these samples' Z of each block.

    Attributes
    ----------
    model : BlockModel
    train : (n,) int array
    left : list of (m, p_b) float arrays
    """

    model: BlockModel
    train: Integers
    left: list[Floats]


def without_each(
    model: BlockModel, segments: Sequence[Integers], refit: Refit, watch: Watch | None = None
) -> Iterator[Without]:
    """Everything learned again without each segment; those that leave too little are passed over."""
    for place, left in enumerate(segments):
        tell(watch, place / len(segments))
        train = np.setdiff1d(np.arange(model.n), left)
        trained, others = refit(train, left)
        try:
            parts = [
                reduced(block.name, z, block.r, or_fewer=True)
                for block, z in zip(model.blocks, trained, strict=True)
            ]
            yield Without(model.again(parts), train, others)
        except ModelError:
            continue


def held_out_agreement(
    model: BlockModel,
    segments: Sequence[Integers],
    refit: Refit | None = None,
    watch: Watch | None = None,
) -> list[HeldOut]:
    """Everything learned again without each segment, and the blocks' scores of its samples compared.

    Parameters
    ----------
    segments : (m,) int arrays of rows that are left out together
    refit : function, optional
        Treats, centres and scales anew; without one only the means are taken again.
    """
    refit = refit or centred_refit(model.blocks)
    sums: dict[tuple[Set, int], dict[tuple[int, int], np.ndarray]] = {}
    counts: dict[tuple[Set, int], int] = {}
    cosines: dict[tuple[Set, int], list[float]] = {}
    done = 0
    for part in without_each(model, segments, refit, watch):
        done += 1
        for component in part.model.components:
            if len(component.blocks) < 2:
                continue
            key = (component.blocks, component.order)
            counts[key] = counts.get(key, 0) + 1
            scores = {b: part.left[b] @ component.weights[b] for b in component.blocks}
            store = sums.setdefault(key, {})
            for b, c in combinations(component.blocks, 2):
                products = np.array([scores[b] @ scores[c], scores[b] @ scores[b], scores[c] @ scores[c]])
                store[(b, c)] = store.get((b, c), np.zeros(3)) + products
            cosines.setdefault(key, []).append(
                _alike(model, component.blocks, component.consensus, part.train)
            )
    return [
        _pooled(one.blocks, one.order, counts, sums, cosines, done)
        for one in model.components
        if len(one.blocks) > 1
    ]


def _alike(model: BlockModel, blocks: Set, consensus: Floats, train: Integers) -> float:
    """Of a component of a segment with the nearest of its set in the whole model."""
    own = [one.consensus[train] for one in model.of(blocks)]
    lengths = [float(np.linalg.norm(values)) or 1.0 for values in own]
    found = [abs(float(values @ consensus)) / length for values, length in zip(own, lengths, strict=True)]
    return max(found, default=0.0)


def _pooled(
    blocks: Set,
    order: int,
    counts: dict[tuple[Set, int], int],
    sums: dict[tuple[Set, int], dict[tuple[int, int], np.ndarray]],
    cosines: dict[tuple[Set, int], list[float]],
    done: int,
) -> HeldOut:
    key = (blocks, order)
    if key not in sums:
        return HeldOut(blocks, order, 0, done, float("nan"), float("nan"))
    squared = []
    for both, one, other in sums[key].values():
        size = float(one * other)
        squared.append(float(np.sign(both)) * float(both) ** 2 / size if size > 0.0 else 0.0)
    return HeldOut(blocks, order, counts[key], done, min(squared), float(np.mean(cosines[key])))


def permuted(
    model: BlockModel, draws: int = 99, seed: int = 1, watch: Watch | None = None
) -> dict[Set, tuple[float, ...]]:
    """p values of each shared component: how often blocks whose samples were shuffled agree as well.

    Every block but the first is shuffled on its own. A set's a-th largest agreement stands against the a-th
    largest of any set of as many blocks in each draw; p is (1 + as large) / (1 + draws).
    """
    rng = np.random.default_rng(seed)
    reached = {chosen: np.zeros(len(model.of(chosen))) for chosen in model.sets}
    for draw in range(draws):
        tell(watch, draw / draws)
        shuffled = [model.blocks[0], *(_shuffled(block, rng) for block in model.blocks[1:])]
        own = model.again(shuffled, floor=0.0)
        for chosen in model.sets:
            agreements = sorted((one.agreement for one in model.of(chosen)), reverse=True)
            largest = sorted(
                (one.agreement for one in own.components if len(one.blocks) == len(chosen)), reverse=True
            )
            for place, agreement in enumerate(agreements):
                if place < len(largest) and largest[place] >= agreement:
                    reached[chosen][place] += 1
    return {chosen: tuple(((1.0 + counts) / (1.0 + draws)).tolist()) for chosen, counts in reached.items()}


def _shuffled(block: Reduced, rng: np.random.Generator) -> Reduced:
    order = rng.permutation(len(block.z))
    return Reduced(
        block.name, block.z[order], block.scores[order], block.singular, block.directions,
        block.squares, block.reliability,
    )  # fmt: skip


def shares_held_out(
    model: BlockModel, segments: Sequence[Integers], refit: Refit | None = None
) -> list[float]:
    """The share of each block's left-out squares that its r components explain, (B,)."""
    refit = refit or centred_refit(model.blocks)
    left_over, total = np.zeros(len(model.blocks)), np.zeros(len(model.blocks))
    for left in segments:
        train = np.setdiff1d(np.arange(model.n), left)
        trained, others = refit(train, left)
        for b, (z, new) in enumerate(zip(trained, others, strict=True)):
            directions = decomposed(z)[2][:, : model.blocks[b].r]
            rest = new - (new @ directions) @ directions.T
            left_over[b] += float(np.sum(rest**2))
            total[b] += float(np.sum(new**2))
    return [
        float(1.0 - left_over[b] / total[b]) if total[b] > 0.0 else float("nan") for b in range(len(total))
    ]
