"""What is found out beside the fit: held out, by chance, outside columns, who disagrees, what is steady."""

from __future__ import annotations

import numpy as np

from scutcher.core.arrays import Floats
from scutcher.core.blocks.component import Component
from scutcher.core.blocks.disagreement import Apart, farthest_apart
from scutcher.core.blocks.fitting import FittedBlocks
from scutcher.core.blocks.held_out import HeldOut, held_out_agreement, permuted, shares_held_out
from scutcher.core.blocks.outside import Beside, outside
from scutcher.core.blocks.prediction import Foretold, foretold
from scutcher.core.blocks.stability import SHARE, Stability, resampled
from scutcher.core.data.columns import ClassColumn
from scutcher.core.data.table import Table
from scutcher.core.frozen import frozen
from scutcher.core.progress import Watch, part, tell
from scutcher.core.recipes.recipe import ValidateSettings
from scutcher.core.validation.segments import make_segments
from scutcher.core.words import shown


@frozen(eq=False)
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
        said = [f"agreement {shown(min(component.agreement, 1.0), '.2f')}"]
        held, p = self.held_of(component), self.p_of(component)
        if held is not None:
            known = np.isfinite(held.agreement)
            there = shown(held.agreement, ".2f") if known else "none"
            said.append(f"{there} on samples left out (found in {held.segments} of {held.of} segments)")
        if np.isfinite(p):
            said.append(f"p {shown(p, '.3f')}")
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
        held = held_out_agreement(model, segments, matched.refit, own)
        shares = shares_held_out(model, segments, matched.refit)
    tell(watch, 0.6)
    draws = fitted.settings.permutations
    chance = permuted(model, draws, watch=None if watch is None else part(watch, 0.6, 0.95)) if draws else {}
    numbers, classes = outside_columns(fitted)
    beside = outside(model, numbers, [(level.name, level.codes()) for level in classes])
    apart = farthest_apart(model, fitted.settings.level)
    return CheckedBlocks(tuple(held), tuple(shares), chance, tuple(beside), tuple(apart))


@frozen(eq=False)
class SteadyBlocks:
    """What takes longest to find out.

    Attributes
    ----------
    stability : tuple of Stability
        Of shared components.
    foretold : tuple of Foretold
        How well each block follows from the others; empty where nothing is held out.
    """

    stability: tuple[Stability, ...]
    foretold: tuple[Foretold, ...]

    def of(self, component: Component) -> Stability | None:
        """What part of the samples says of a shared component."""
        key = component.blocks, component.order
        return next((one for one in self.stability if (one.blocks, one.order) == key), None)

    def words_of(self, component: Component) -> str:
        """`back in 40 of 40 draws of 80 % of the samples, |r| 0.99 (0.97 to 1.00)`."""
        one = self.of(component)
        if one is None:
            return ""
        told = f"back in {one.found} of {one.draws} draws of {100 * SHARE:.0f} % of the samples"
        if np.isfinite(one.alike):
            told += f", |r| {shown(one.alike, '.2f')} ({shown(one.low, '.2f')} to {shown(one.high, '.2f')})"
        return told


def steady_blocks(
    fitted: FittedBlocks, validate: ValidateSettings, watch: Watch | None = None
) -> SteadyBlocks:
    """Whether shared components come back in part of the samples, and whether blocks follow from others."""
    stability = resampled(fitted.model, watch=None if watch is None else part(watch, 0.0, 0.6))
    told: tuple[Foretold, ...] = ()
    if validate.scheme != "none":
        segments = make_segments(samples_of(fitted), validate).parts[0]
        own = None if watch is None else part(watch, 0.6, 1.0)
        told = foretold(fitted, segments, fitted.matched.refit, own)
    return SteadyBlocks(stability, told)


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


def outside_columns(fitted: FittedBlocks) -> tuple[list[tuple[str, Floats]], list[ClassColumn]]:
    """Properties and classes of all tables, each name once; of repeats the first."""
    numbers: dict[str, Floats] = {}
    classes: dict[str, ClassColumn] = {}
    for one in fitted.treated:
        for column in one.table.properties:
            numbers.setdefault(column.header, column.values)
        for level in one.table.classes:
            if len(level.names) < len(one.table.ids):
                classes.setdefault(level.name, level)
    return list(numbers.items()), list(classes.values())
