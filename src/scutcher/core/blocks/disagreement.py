"""Samples on which blocks disagree about a component, which block is odd, and because of what."""

from __future__ import annotations

from itertools import combinations

import numpy as np

from scutcher.core.arrays import Floats
from scutcher.core.blocks.component import Component
from scutcher.core.blocks.consensus import BlockModel
from scutcher.core.frozen import frozen


@frozen(eq=False)
class Disagreement:
    """Of one component.

    Attributes
    ----------
    pairs : tuple of (int, int)
    residuals : (pairs, n) float array
        Deleted residuals of the difference of two blocks' scores on their mean, t of n − 3.
    limit : float
        Both ways, over all samples and pairs.
    named : dict of sample → block or −1
        The block that passes against every other while no other pair does; −1 where two blocks disagree
        or it is unclear.
    """

    pairs: tuple[tuple[int, int], ...]
    residuals: Floats
    limit: float
    named: dict[int, int]


def disagreement(model: BlockModel, component: Component, level: float = 0.95) -> Disagreement:
    """Which samples two blocks of a set place differently on a component.

    The difference is orthogonal to the mean of two scores of length one, so that its size does not depend
    on where a sample lies. A comparison with the mean of the others would name the innocent too.
    """
    from scipy.special import stdtrit

    n, pairs = model.n, tuple(combinations(component.blocks, 2))
    found = np.zeros((len(pairs), n))
    for place, (b, c) in enumerate(pairs):
        found[place] = deleted_residuals(component.scores[b], component.scores[c])
    chance = (1.0 - level) / (2.0 * n * max(len(pairs), 1))
    limit = float(-stdtrit(n - 3, chance))
    past = np.abs(found) > limit
    named: dict[int, int] = {}
    for row in np.flatnonzero(past.any(axis=0)).tolist():
        named[row] = _odd_one(component.blocks, pairs, past[:, row])
    return Disagreement(pairs, found, limit, named)


def deleted_residuals(one: Floats, other: Floats) -> Floats:
    """Of two block scores of length one, (n,)."""
    n = len(one)
    away, middle = one - other, 0.5 * (one + other)
    squares = float(middle @ middle)
    leverage = 1.0 / n + (middle**2 / squares if squares > 0.0 else 0.0)
    variance = float(away @ away) / (n - 2)
    if not variance > 0.0:
        return np.zeros(n)
    plain = away / np.sqrt(variance * np.maximum(1.0 - leverage, 1e-12))
    rest = np.maximum(n - 2.0 - plain**2, 1e-12)
    found: Floats = plain * np.sqrt((n - 3.0) / rest)
    return found


def _odd_one(blocks: tuple[int, ...], pairs: tuple[tuple[int, int], ...], past: np.ndarray) -> int:
    """The block against which all its pairs pass and no others do; −1 for none or for two blocks."""
    if len(blocks) < 3:
        return -1
    for b in blocks:
        mine = np.array([b in pair for pair in pairs])
        if past[mine].all() and not past[~mine].any():
            return b
    return -1


@frozen(eq=False)
class Why:
    """Shares of variables in how far a sample stands from what the other blocks say.

    Attributes
    ----------
    shares : (p,) float array
        Add up to `away` exactly.
    away : float
        Score of this block less what the mean of the others lets expect.
    expected : (p,) float array
        Values that the others let expect, in the block's scaled units.
    """

    shares: Floats
    away: float
    expected: Floats


def why(model: BlockModel, component: Component, b: int, row: int) -> Why:
    """Because of which variables a block places a sample elsewhere than the others do."""
    others = [component.scores[c] for c in component.blocks if c != b]
    mean = np.mean(others, axis=0)
    mean = mean - mean.mean()
    squares = float(mean @ mean)
    z, weights = model.blocks[b].z, component.weights[b]
    slope = mean @ z / squares if squares > 0.0 else np.zeros(z.shape[1])
    expected = mean[row] * slope
    shares = (z[row] - expected) * weights
    return Why(shares, float(shares.sum()), expected)


@frozen
class Apart:
    """A sample on which blocks disagree most.

    Attributes
    ----------
    row : int
    component : int
        Its place in the model.
    pair : (int, int)
        The blocks that are farthest apart.
    residual : float
    block : int
        The block that is named, −1 where it is unclear.
    """

    row: int
    component: int
    pair: tuple[int, int]
    residual: float
    block: int


def farthest_apart(model: BlockModel, level: float = 0.95, most: int = 12) -> list[Apart]:
    """The samples past the limit on any shared component, the farthest first."""
    found: list[Apart] = []
    for place, component in enumerate(model.components):
        if len(component.blocks) < 2:
            continue
        own = disagreement(model, component, level)
        for row, block in own.named.items():
            pair = int(np.abs(own.residuals[:, row]).argmax())
            found.append(Apart(row, place, own.pairs[pair], float(own.residuals[pair, row]), block))
    found.sort(key=lambda one: -abs(one.residual))
    return found[:most]
