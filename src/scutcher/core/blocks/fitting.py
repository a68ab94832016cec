"""From matched tables to components, and what the method cannot say of them."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from itertools import combinations

import numpy as np

from scutcher.core.blocks.common import Found, Set
from scutcher.core.blocks.component import Component
from scutcher.core.blocks.consensus import BlockModel, block_model
from scutcher.core.blocks.matching import Matched, Treated
from scutcher.core.blocks.reduced import Reduced, reduced, suggested_rank
from scutcher.core.frozen import frozen
from scutcher.core.progress import Watch, tell
from scutcher.core.recipes.block_settings import BlocksSettings
from scutcher.core.words import shown

FEW = 3
"""Blocks of which every pair is looked at."""

CARRIES = 0.5
"""Square of a consensus score above which one sample carries the component."""

OFTEN_CHANCE = 0.8
"""Chance bound of a pair above which the samples are too few."""


@frozen(eq=False)
class FittedBlocks:
    """Blocks and all that is known of them.

    Attributes
    ----------
    matched : Matched
    treated : tuple of Treated
    model : BlockModel
    settings : BlocksSettings
    ranks : tuple of (suggested, used)
    coming : dict of set → tuple of Found
        What sets would share next, which they do not: of all blocks, of those that share something, and of
        pairs where there are no more than three blocks.
    """

    matched: Matched
    treated: tuple[Treated, ...]
    model: BlockModel
    settings: BlocksSettings
    ranks: tuple[tuple[int, int], ...]
    coming: Mapping[Set, tuple[Found, ...]]

    @property
    def names(self) -> tuple[str, ...]:
        """Of the blocks."""
        return tuple(source.name for source in self.matched.sources)

    def label(self, component: Component) -> str:
        """`common 1`, `nir & bench 1`, `only nir 1`."""
        names, place = self.names, component.order + 1
        if len(component.blocks) == len(names):
            return f"common {place}"
        if len(component.blocks) == 1:
            return f"only {names[component.blocks[0]]} {place}"
        return f"{' & '.join(names[b] for b in component.blocks)} {place}"

    def code(self, component: Component) -> str:
        """`C1` of all, `S1` of some (counted over all such sets), `O1` of one."""
        kinds = [len(one.blocks) for one in self.model.components]
        width = len(component.blocks)
        if width == len(self.names):
            return f"C{component.order + 1}"
        if width == 1:
            return f"O{component.order + 1}"
        some = [
            one for one, kind in zip(self.model.components, kinds, strict=True) if 1 < kind < len(self.names)
        ]
        return f"S{some.index(component) + 1}"

    def warnings(self) -> list[str]:
        """What the method cannot say of these data."""
        from scutcher.core.blocks.chance import chance_bound

        said, model, n = [], self.model, self.model.n
        for component in model.components:
            if len(component.blocks) < 2:
                continue
            squares = component.consensus**2
            row = int(squares.argmax())
            if squares[row] > CARRIES:
                said.append(f"{self.matched.ids[row]} alone carries {self.label(component)}.")
            wander = abs(float(component.consensus[1:] @ component.consensus[:-1]))
            if wander > 2.0 / np.sqrt(n) and not self.settings.series:
                said.append(
                    f"{self.label(component)} wanders in run order (lag 1: {shown(wander, '.2f')}): "
                    "tables that drift look common; say that the samples are a series."
                )
        for b, one in enumerate(model.blocks):
            for c in range(b + 1, len(model.blocks)):
                bound = chance_bound(n - 1, one.r, model.blocks[c].r, 0.95)
                if bound > OFTEN_CHANCE:
                    said.append(
                        f"With {n} samples {one.name} and {model.blocks[c].name} would reach r "
                        f"{shown(np.sqrt(bound), '.2f')} by chance: agreement says little."
                    )
        return said


def fit_blocks(matched: Matched, settings: BlocksSettings, watch: Watch | None = None) -> FittedBlocks:
    """Treat, reduce and compare.

    Raises
    ------
    InputError
        A treatment does not suit, the blocks do not vary or are the same.
    """
    everyone = np.arange(len(matched.ids))
    treated = matched.treated(everyone)
    tell(watch, 0.4)
    ranks, blocks = [], []
    for one in treated:
        asked = settings.rank_of(one.source.name)
        suggested = suggested_rank(one.z, one.source.ordered) if asked is None else asked
        ranks.append((suggested, suggested))
        blocks.append(reduced(one.source.name, one.z, suggested))
    tell(watch, 0.8)
    counts = decided_counts([one.source.name for one in treated], settings)
    weights = weights_of(blocks, settings)
    model = block_model(blocks, settings.level, settings.floor, settings.series, None, counts, weights)
    return FittedBlocks(matched, tuple(treated), model, settings, tuple(ranks), _coming(model))


def _coming(model: BlockModel) -> dict[Set, tuple[Found, ...]]:
    """The next two directions of all blocks together, and the next one of other sets that can be decided."""
    every = tuple(range(len(model.blocks)))
    pairs = list(combinations(every, 2)) if len(every) <= FEW else []
    sets = dict.fromkeys([every, *model.sets, *model.counts, *pairs])
    return {chosen: tuple(model.next_of(chosen, 2 if chosen == every else 1)) for chosen in sets}


def weights_of(blocks: Sequence[Reduced], settings: BlocksSettings) -> list[float]:
    """Of the blocks in the axes of a set: each the same or by its variance, times what a person gave it."""
    factors = dict(settings.factors)
    by_variance = settings.weights == "variance"
    return [factors.get(one.name, 1.0) * (one.total if by_variance else 1.0) for one in blocks]


def decided_counts(names: Sequence[str], settings: BlocksSettings) -> dict[Set, int]:
    """How many components sets of these blocks share, where the settings say so."""
    places = {name: place for place, name in enumerate(names)}
    return {
        tuple(sorted(places[name] for name in chosen)): count
        for chosen, count in settings.counts
        if len(set(chosen)) > 1 and all(name in places for name in chosen)
    }
