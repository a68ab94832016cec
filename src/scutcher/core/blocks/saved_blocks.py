"""Several tables as a model that can leave the house, without the samples that it was made of."""

from __future__ import annotations

from itertools import combinations
from typing import Any

import numpy as np

from scutcher.core.arrays import Floats
from scutcher.core.blocks.common import Set
from scutcher.core.blocks.fitting import FittedBlocks
from scutcher.core.data.axis import Axis
from scutcher.core.frozen import frozen
from scutcher.core.recipes.block_settings import Repeats
from scutcher.core.recipes.recipe import Step


@frozen(eq=False)
class SavedBlock:
    """One table, apart from its samples.

    Attributes
    ----------
    name : str
    axis : Axis
        The p₀ variables that go in.
    steps, learned : the treatments that ran, and what each learned
    fill : (p₀,) float array
        Means of the training samples, for gaps.
    treated_labels : tuple of p str
    centre, weight : (p,) float arrays
    basis : (p, r) float array
        The leverage of a row of Z is the square of its product with this.
    """

    name: str
    axis: Axis
    steps: tuple[Step, ...]
    learned: tuple[Any, ...]
    fill: Floats
    treated_labels: tuple[str, ...]
    centre: Floats
    weight: Floats
    basis: Floats


@frozen(eq=False)
class SavedSet:
    """The components that a set of tables shares, or that one table has alone.

    Attributes
    ----------
    blocks : tuple of int
    labels : tuple of k str
    weights : dict of block → (k, p_b) float array
        Block scores of new rows are `z wᵀ`.
    seen : dict of block → (k, k) float array
        Products of block scores and consensus of the training samples.
    away : dict of (block, block) → (k,) float array
        Sum of squares of the difference of two block scores, over the training samples.
    """

    blocks: Set
    labels: tuple[str, ...]
    weights: dict[int, Floats]
    seen: dict[int, Floats]
    away: dict[tuple[int, int], Floats]


@frozen(eq=False)
class SavedBlocks:
    """All of it; made of so many samples.

    Attributes
    ----------
    match : str
        The class column by which tables are matched; "" for replicates or ids.
    repeats : {"mean", "median", "first"}
    """

    blocks: tuple[SavedBlock, ...]
    sets: tuple[SavedSet, ...]
    samples: int
    match: str = ""
    repeats: Repeats = "mean"

    @property
    def names(self) -> tuple[str, ...]:
        """Of the tables."""
        return tuple(block.name for block in self.blocks)


def saved_blocks(fitted: FittedBlocks) -> SavedBlocks:
    """What is needed for new samples, without the training samples."""
    blocks = tuple(
        SavedBlock(
            one.source.name,
            one.source.table.axis,
            one.source.steps,
            tuple(one.learned),
            one.source.table.values.mean(axis=0),
            one.table.axis.labels,
            one.scaler.centre,
            one.scaler.weight,
            np.ascontiguousarray(block.directions / block.singular),
        )
        for one, block in zip(fitted.treated, fitted.model.blocks, strict=True)
    )
    chosen = dict.fromkeys(one.blocks for one in fitted.model.components)
    sets = tuple(_saved_set(fitted, one) for one in chosen)
    return SavedBlocks(blocks, sets, fitted.model.n, fitted.settings.match, fitted.settings.repeats)


def _saved_set(fitted: FittedBlocks, chosen: Set) -> SavedSet:
    own = fitted.model.of(chosen)
    consensus = np.column_stack([one.consensus for one in own])
    scores = {b: np.column_stack([one.scores[b] for one in own]) for b in chosen}
    away = {(b, c): ((scores[b] - scores[c]) ** 2).sum(axis=0) for b, c in combinations(chosen, 2)}
    return SavedSet(
        chosen,
        tuple(fitted.label(one) for one in own),
        {b: np.vstack([one.weights[b] for one in own]) for b in chosen},
        {b: scores[b].T @ consensus for b in chosen},
        away,
    )
