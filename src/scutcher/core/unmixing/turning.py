"""How far shapes could turn, by many starts: a lower bound of what is left open."""

from __future__ import annotations

import numpy as np

from scutcher.core.arrays import Floats
from scutcher.core.errors import ModelError
from scutcher.core.frozen import frozen
from scutcher.core.progress import Watch, part
from scutcher.core.unmixing.alternating import PLAIN, Demands, Unmixed, unmix

STARTS, TURNED, AS_GOOD = 20, 0.6, 1e-4
"""Starts, how far each is turned, and by what share of the data's squares a misfit may be worse."""


@frozen(eq=False)
class Turned:
    """The smallest and largest of what ends as well as the solution does.

    Attributes
    ----------
    low, high : (q, p) float arrays
        Of the shapes, at largest value one.
    amounts_low, amounts_high : (n, q) float arrays
        Of the amounts of shapes so scaled.
    width : float
        Mean over the channels of high less low, the widest shape.
    as_good : int
        How many starts ended as well.
    """

    low: Floats
    high: Floats
    amounts_low: Floats
    amounts_high: Floats
    width: float
    as_good: int


def at_largest_one(found: Unmixed) -> tuple[Floats, Floats]:
    """Amounts and shapes with each shape's largest value one."""
    sizes = found.shapes.max(axis=1)
    sizes = np.where(sizes > 0.0, sizes, 1.0)
    return found.amounts * sizes, found.shapes / sizes[:, np.newaxis]


def turned(
    spectra: Floats,
    found: Unmixed,
    demands: Demands = PLAIN,
    seed: int = 1,
    starts: int = STARTS,
    watch: Watch | None = None,
) -> Turned:
    """Start from turned shapes, and keep what ends as well.

    Parameters
    ----------
    spectra : (n, p) float array
    found : Unmixed
        The solution.
    """
    rng = np.random.default_rng(seed)
    q = len(found.shapes)
    ends = [at_largest_one(found)]
    for place in range(starts):
        start = np.maximum((np.eye(q) + TURNED * rng.uniform(-1.0, 1.0, (q, q))) @ found.shapes, 0.0)
        own = None if watch is None else part(watch, place / starts, (place + 1) / starts)
        try:
            other = unmix(spectra, q, demands, start, own)
        except ModelError:
            continue
        if other.state == "collapsed" or other.misfit > found.misfit + AS_GOOD:
            continue
        amounts, shapes = at_largest_one(other)
        order = _matched(ends[0][1], shapes)
        ends.append((amounts[:, order], shapes[order]))
    amounts_of_all = np.array([amounts for amounts, _ in ends])
    shapes_of_all = np.array([shapes for _, shapes in ends])
    low, high = shapes_of_all.min(axis=0), shapes_of_all.max(axis=0)
    return Turned(
        low,
        high,
        amounts_of_all.min(axis=0),
        amounts_of_all.max(axis=0),
        float((high - low).mean(axis=1).max()),
        len(ends) - 1,
    )


def _matched(wanted: Floats, shapes: Floats) -> list[int]:
    """Which of the shapes is most like each of those wanted, each once."""
    unit = [rows / np.linalg.norm(rows, axis=1, keepdims=True) for rows in (wanted, shapes)]
    alike = unit[0] @ unit[1].T
    order = [-1] * len(wanted)
    for _ in range(len(wanted)):
        one, other = np.unravel_index(int(np.argmax(alike)), alike.shape)
        order[int(one)] = int(other)
        alike[one], alike[:, other] = -np.inf, -np.inf
    return order
