"""Whether shared components come back when part of the samples are drawn again and again."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from scutcher.core.arrays import Floats, Integers
from scutcher.core.blocks.chance import reliabilities
from scutcher.core.blocks.common import Set
from scutcher.core.blocks.consensus import BlockModel
from scutcher.core.blocks.reduced import Reduced
from scutcher.core.errors import ModelError
from scutcher.core.frozen import frozen
from scutcher.core.numeric.lapack import largest_eigenpairs
from scutcher.core.progress import Watch, tell

DRAWS, SHARE = 40, 0.8
"""How often samples are drawn, and which share of them each time."""

FEWEST = 8
"""Samples of a draw at least."""


@frozen
class Stability:
    """Of one shared component.

    Attributes
    ----------
    blocks : tuple of int
    order : int
    found : int
        Draws in which its set shared that many components at least.
    draws : int
    alike : float
        Median |cosine| of its scores with what the set shared in those draws; NaN where never found.
    low, high : float
        From the 5 % to the 95 % quantile of that cosine.
    """

    blocks: Set
    order: int
    found: int
    draws: int
    alike: float
    low: float
    high: float


def resampled(
    model: BlockModel,
    draws: int | None = None,
    share: float = SHARE,
    seed: int = 1,
    watch: Watch | None = None,
) -> tuple[Stability, ...]:
    """Compare the blocks anew in random parts of the samples, drawn without replacement.

    Means are taken again in each draw; treatments, scaling and numbers of components stay. Repeats cannot
    be torn apart: a row of a block is a sample.

    Parameters
    ----------

    References
    ----------
    Meinshausen & Bühlmann, J. R. Stat. Soc. B 72 (2010) 417–473 (subsampling in place of the bootstrap, where
    a sample that is drawn twice would agree with itself).
    """
    rng = np.random.default_rng(seed)
    n = model.n
    size = max(round(share * n), min(FEWEST, n))
    rotated = [_rotated(block) for block in model.blocks]
    seen: dict[tuple[Set, int], list[float]] = {
        (one.blocks, one.order): [] for one in model.components if len(one.blocks) > 1
    }
    done = 0
    draws = DRAWS if draws is None else draws
    for draw in range(draws):
        tell(watch, draw / draws)
        rows = np.sort(rng.choice(n, size, replace=False))
        parts = [_part(block, z[rows]) for block, z in zip(model.blocks, rotated, strict=True)]
        try:
            own = model.again(parts)
        except ModelError:
            continue
        done += 1
        for chosen in model.sets:
            _compare(model, own, chosen, rows, seen)
    return tuple(_told(key, cosines, done) for key, cosines in seen.items())


def _rotated(block: Reduced) -> Floats:
    """Z on its own axes, (n, m): the same products between samples, and far fewer columns."""
    n, p = block.z.shape
    if p <= n:
        return block.z
    values, vectors = np.linalg.eigh(block.z @ block.z.T)
    found: Floats = vectors * np.sqrt(np.maximum(values, 0.0))
    return found


def _part(block: Reduced, z: Floats) -> Reduced:
    """Some rows of a block, centred, in as many components; by the products of its samples."""
    centred = z - z.mean(axis=0)
    gram = centred @ centred.T
    n = len(gram)
    squares = np.maximum(np.linalg.eigvalsh(gram)[::-1], 0.0)
    rank = int(np.sum(squares > 1e-10 * squares[0]))
    r = max(min(block.r, rank), 1)
    scores = largest_eigenpairs(gram, r)[1]
    singular = np.sqrt(np.maximum(squares[:r], 1e-300))
    directions = (centred.T @ scores) / singular
    return Reduced(
        block.name, centred, np.ascontiguousarray(scores), singular, directions, squares[: min(z.shape)],
        reliabilities(squares[: min(z.shape)], r, n - 1, block.z.shape[1]),
    )  # fmt: skip


def _compare(
    model: BlockModel, own: BlockModel, chosen: Set, rows: Integers, seen: dict[tuple[Set, int], list[float]]
) -> None:
    """The length of each component's scores in the space that the set shares in a draw."""
    again = own.of(chosen)
    if not again:
        return
    space = np.linalg.qr(np.column_stack([one.consensus for one in again]))[0]
    for one in model.of(chosen):
        if one.order < len(again):
            part = one.consensus[rows] - one.consensus[rows].mean()
            length = float(np.linalg.norm(part))
            if length > 0.0:
                seen[(chosen, one.order)].append(float(np.linalg.norm(space.T @ part)) / length)


def _told(key: tuple[Set, int], cosines: Sequence[float], draws: int) -> Stability:
    if not cosines:
        return Stability(*key, 0, draws, *[float("nan")] * 3)
    low, middle, high = np.quantile(cosines, [0.05, 0.5, 0.95]).tolist()
    return Stability(*key, len(cosines), draws, middle, low, high)
