"""The data sets of a study as blocks: each with the treatments of its own model."""

from __future__ import annotations

from collections.abc import Callable, Hashable, Sequence
from typing import Any, TypeVar

import numpy as np

from scutcher.core.arrays import Integers
from scutcher.core.blocks.checking import CheckedBlocks, SteadyBlocks, check_blocks, steady_blocks
from scutcher.core.blocks.fitting import FittedBlocks, fit_blocks
from scutcher.core.blocks.matching import BlockSource, cut, keys_of, match
from scutcher.core.data.table import Table
from scutcher.core.frozen import frozen
from scutcher.core.models.missing_values import filled, fills, usable_part
from scutcher.core.numeric.threads import one_thread
from scutcher.core.progress import Watch
from scutcher.core.recipes.block_settings import BlocksSettings
from scutcher.core.recipes.recipe import Recipe, ValidateSettings
from scutcher.study.document.parts import DataSet, Model, Reached
from scutcher.study.document.state import State
from scutcher.study.evaluation.cache import shared

T = TypeVar("T")


@frozen(eq=False)
class Member:
    """A data set and the model whose treatments it has as a block."""

    dataset: DataSet
    model: Model


def members_of(state: State) -> tuple[Member, ...]:
    """The data sets that are blocks: with the current model, else with the one that was made last."""
    found = []
    for dataset in state.datasets:
        own = [model for model in state.models if model.dataset == dataset.id]
        if not own or dataset.name in state.blocks.without:
            continue
        current = state.model
        model = current if current is not None and current.dataset == dataset.id else own[-1]
        found.append(Member(dataset, model))
    return tuple(found)


def key_of(state: State) -> Hashable:
    """What the blocks are made from: two states with equal keys have the same ones, while both are kept.

    Classes, properties and replicates count as values do: they match the samples and stand beside what is
    common.
    """
    parts = tuple(
        (id(one.dataset.table), one.dataset.name,
         one.model.recipe.treat, one.model.recipe.scale, one.model.recipe.model.gaps,
         tuple(one.model.use.set_aside), one.model.use.watched, tuple(one.model.use.left_out))
        for one in members_of(state)
    )  # fmt: skip
    return parts, state.blocks, state.recipe.validate


def source_of(table: Table, recipe: Recipe, name: str, column: str = "") -> BlockSource:
    """A table as its recipe uses it, matched by a class column where it has one of that name."""
    usable = usable_part(table, recipe.model)
    part = table.take(usable.rows, usable.columns)
    if part.has_gaps:
        part = filled(part, fills(part.values, recipe.model.gaps))
    known = {level.name for level in part.classes}
    keys = keys_of(part, column if column in known else "")
    steps = tuple(step for step in recipe.treat if step.on)
    return BlockSource(name, part, keys, steps, recipe.scaling_for(part.axis.ordered))


def fitted_blocks(state: State, watch: Watch | None = None) -> FittedBlocks:
    """The blocks of a study; for as long as there is room, those of before are at hand.

    Raises
    ------
    InputError
        They cannot be matched or compared.
    """

    def compute() -> tuple[State, FittedBlocks]:
        return state, fitted_members(members_of(state), state.blocks, watch)

    found: FittedBlocks = shared().get(("blocks", key_of(state)), compute, _size)[1]
    return found


def _size(kept: tuple[Any, FittedBlocks]) -> int:
    """Bytes."""
    return sum(2 * block.z.nbytes for block in kept[1].treated)


def _beside(
    fitted: FittedBlocks, segments: ValidateSettings, compute: Callable[..., T], watch: Watch | None
) -> T:
    """What is found out beside the fit by some segments; kept with it, so that no other takes its number."""

    def both() -> tuple[T, FittedBlocks]:
        return compute(fitted, segments, watch), fitted

    found: T = shared().get((compute.__name__, id(fitted), segments), both, _size)[0]
    return found


def fitted_members(
    members: Sequence[Member], settings: BlocksSettings, watch: Watch | None = None
) -> FittedBlocks:
    """Data sets, each with the treatments and samples of its model, matched and compared."""
    sources = [
        source_of(one.model.use.of(one.dataset.table), one.model.recipe, one.dataset.name, settings.match)
        for one in members
    ]
    return fitted_sources(sources, settings, watch)


def reached_by(fitted: FittedBlocks, checked: CheckedBlocks | None, codes: Integers) -> Reached:
    """What a comparison has reached: its figures and its consensus plane.

    Parameters
    ----------
    codes : (n,) int array
        The class of each common sample, −1 for none.
    """
    components = fitted.model.components
    shared = [one for one in components if len(one.blocks) > 1]
    everyone = len(fitted.names)
    held = [] if checked is None else [one.agreement for one in checked.held_out]
    figures = {
        "samples": float(fitted.model.n),
        "tables": float(everyone),
        "common": float(sum(len(one.blocks) == everyone for one in shared)),
        "shared": float(sum(len(one.blocks) < everyone for one in shared)),
        "agreement": min(held, default=float("nan")),
    }
    plane = np.column_stack([one.consensus for one in (shared or list(components))[:2]])
    return Reached(
        tuple((key, value) for key, value in figures.items() if np.isfinite(value)),
        np.ascontiguousarray(plane),
        np.asarray(codes, dtype=np.intp),
    )


@one_thread()
def fitted_sources(
    sources: Sequence[BlockSource], settings: BlocksSettings, watch: Watch | None = None
) -> FittedBlocks:
    """Tables matched and compared, cut into parts where the settings name some."""
    if settings.parts:
        sources = [part for source in sources for part in cut(source, settings.parts)]
    return fit_blocks(match(sources, settings.repeats), settings, watch)


@one_thread()
def checked_blocks(state: State, fitted: FittedBlocks, watch: Watch | None = None) -> CheckedBlocks:
    """What is found out beside the fit, by the segments of the current recipe."""
    return _beside(fitted, state.recipe.validate, check_blocks, watch)


@one_thread()
def steady_of(state: State, fitted: FittedBlocks, watch: Watch | None = None) -> SteadyBlocks:
    """What takes longest to find out, by the segments of the current recipe."""
    return _beside(fitted, state.recipe.validate, steady_blocks, watch)


def rows_of(state: State, fitted: FittedBlocks) -> tuple[Integers, ...]:
    """Rows of the current table for each common sample; empty where it has none of them."""
    table = state.table
    if table is None:
        return tuple(np.empty(0, np.intp) for _ in fitted.matched.ids)
    places: dict[str, list[int]] = {}
    known = {level.name for level in table.classes}
    column = state.blocks.match if state.blocks.match in known else ""
    for row, key in enumerate(keys_of(table, column)):
        places.setdefault(key, []).append(row)
    return tuple(np.array(places.get(name, []), dtype=np.intp) for name in fitted.matched.ids)
