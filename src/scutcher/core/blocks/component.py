"""One component of several blocks, and which kind it is."""

from __future__ import annotations

from scutcher.core.arrays import Floats
from scutcher.core.blocks.common import Set
from scutcher.core.frozen import frozen


@frozen(eq=False)
class Component:
    """A direction of the samples that the blocks of a set share; one block: its own.

    Attributes
    ----------
    blocks : tuple of int
    order : int
        Its place among those of its set, by variance.
    consensus : (n,) float array
        Of length one.
    scores : dict of block → (n,) float array
        Of length one.
    loadings : dict of block → (p_b,) float array
        `Z_bᵀ t_b`.
    weights : dict of block → (p_b,) float array
        `t_b = z w` of new rows.
    agreement : float
        Smallest squared cosine over the pairs, noise discounted; NaN for a block's own.
    shares : dict of block → float
        Of the block's squares.
    chance : float
        The largest squared cosine that two of its blocks would reach by chance; NaN for a block's own.
    """

    blocks: Set
    order: int
    consensus: Floats
    scores: dict[int, Floats]
    loadings: dict[int, Floats]
    weights: dict[int, Floats]
    agreement: float
    shares: dict[int, float]
    chance: float = float("nan")


KINDS = ("common", "shared", "own")
"""Of components: of all blocks, of some, of one."""


def kind_of(component: Component, blocks: int) -> str:
    """Which of the `KINDS` a component of a model of so many blocks is."""
    width = len(component.blocks)
    return "common" if width == blocks else "own" if width == 1 else "shared"
