"""From matched tables to the whole answer: ranks, components, held-out agreement, chance, outside columns."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from scutcher.core.arrays import Floats
from scutcher.core.blocks.consensus import BlockModel, Component, block_model
from scutcher.core.blocks.disagreement import Apart, farthest_apart
from scutcher.core.blocks.held_out import HeldOut, held_out_agreement, permuted, shares_held_out
from scutcher.core.blocks.matching import Matched, Treated
from scutcher.core.blocks.outside import Beside, outside
from scutcher.core.blocks.reduced import reduced, suggested_rank
from scutcher.core.data.table import Table
from scutcher.core.progress import Watch, part, tell
from scutcher.core.recipes.block_settings import BlocksSettings
from scutcher.core.recipes.recipe import ValidateSettings
from scutcher.core.validation.segments import make_segments

CARRIES = 0.5
"""Square of a consensus score above which one sample carries the component."""

OFTEN_CHANCE = 0.8
"""Chance bound of a pair above which the samples are too few."""


@dataclass(frozen=True, eq=False)
class FittedBlocks:
    """Blocks and all that is known of them.

    Attributes
    ----------
    matched : Matched
    treated : tuple of Treated
    model : BlockModel
    settings : BlocksSettings
    ranks : tuple of (suggested, used)
    """

    matched: Matched
    treated: tuple[Treated, ...]
    model: BlockModel
    settings: BlocksSettings
    ranks: tuple[tuple[int, int], ...]

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
                    f"{self.label(component)} wanders in run order (lag 1: {wander:.2f}): tables that drift "
                    "look common; say that the samples are a series."
                )
        for b, one in enumerate(model.blocks):
            for c in range(b + 1, len(model.blocks)):
                bound = chance_bound(n - 1, one.r, model.blocks[c].r, 0.95)
                if bound > OFTEN_CHANCE:
                    said.append(
                        f"With {n} samples {one.name} and {model.blocks[c].name} would reach r "
                        f"{np.sqrt(bound):.2f} by chance: agreement says little."
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
    model = block_model(blocks, settings.level, settings.floor, settings.series)
    return FittedBlocks(matched, tuple(treated), model, settings, tuple(ranks))


@dataclass(frozen=True, eq=False)
class CheckedBlocks:
    """What is found out beside the fit.

    Attributes
    ----------
    held_out : tuple of HeldOut
        Of shared components, in the order of the model.
    shares : tuple of float
        Of each block's left-out squares explained by its components.
    chance : dict of set → p values
    outside : tuple of Beside
    apart : tuple of Apart
    """

    held_out: tuple[HeldOut, ...]
    shares: tuple[float, ...]
    chance: dict[tuple[int, ...], tuple[float, ...]]
    outside: tuple[Beside, ...]
    apart: tuple[Apart, ...]

    def held_of(self, component: Component) -> HeldOut | None:
        """What held-out samples say of a shared component."""
        key = component.blocks, component.order
        return next((one for one in self.held_out if (one.blocks, one.order) == key), None)

    def p_of(self, component: Component) -> float:
        """The chance that tables which share nothing agree as much; NaN where nothing was drawn."""
        chances = self.chance.get(component.blocks, ())
        return chances[component.order] if component.order < len(chances) else float("nan")

    def words_of(self, component: Component) -> str:
        """`agreement 0.98, 0.95 on samples left out (found in 7 of 7 segments), p 0.010`."""
        said = [f"agreement {min(component.agreement, 1.0):.2f}"]
        held, p = self.held_of(component), self.p_of(component)
        if held is not None:
            known = np.isfinite(held.agreement)
            there = f"{held.agreement:.2f}" if known else "none"
            said.append(f"{there} on samples left out (found in {held.segments} of {held.of} segments)")
        if np.isfinite(p):
            said.append(f"p {p:.3f}")
        return ", ".join(said).replace("-", "−")


def check_blocks(
    fitted: FittedBlocks, validate: ValidateSettings, watch: Watch | None = None
) -> CheckedBlocks:
    """Held-out agreement, chance, outside columns, samples on which the blocks disagree."""
    model, matched = fitted.model, fitted.matched
    held: list[HeldOut] = []
    shares = [float("nan")] * len(model.blocks)
    if validate.scheme != "none":
        segments = make_segments(samples_of(fitted), validate).parts[0]
        own = None if watch is None else part(watch, 0.0, 0.5)
        held = held_out_agreement(model, segments, matched.refit, fitted.settings.series, own)
        shares = shares_held_out(model, segments, matched.refit)
    tell(watch, 0.6)
    draws = fitted.settings.permutations
    chance = permuted(model, draws, watch=None if watch is None else part(watch, 0.6, 0.95)) if draws else {}
    numbers, classes = _columns(fitted)
    beside = outside(model, numbers, classes)
    apart = farthest_apart(model, fitted.settings.level)
    return CheckedBlocks(tuple(held), tuple(shares), chance, tuple(beside), tuple(apart))


def samples_of(fitted: FittedBlocks) -> Table:
    """The common samples as a table, with the classes and properties of the first block."""
    first = fitted.treated[0].table
    return Table(
        first.values,
        first.axis,
        fitted.matched.ids,
        "common samples",
        first.classes,
        first.properties,
    )


def _columns(fitted: FittedBlocks) -> tuple[list[tuple[str, Floats]], list[tuple[str, np.ndarray]]]:
    """Properties and classes of all tables, each name once; of repeats the first."""
    numbers: dict[str, Floats] = {}
    classes: dict[str, np.ndarray] = {}
    for one in fitted.treated:
        for column in one.table.properties:
            numbers.setdefault(column.header, column.values)
        for level in one.table.classes:
            if len(level.names) < len(one.table.ids):
                classes.setdefault(level.name, level.codes())
    return list(numbers.items()), list(classes.items())
