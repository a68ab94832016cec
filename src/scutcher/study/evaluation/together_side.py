"""Several tables as one of two models that are compared: the samples by what the tables share."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

import numpy as np

from scutcher.core.blocks.fitting import FittedBlocks
from scutcher.core.blocks.matching import keys_of
from scutcher.core.data.axis import Axis
from scutcher.core.data.table import Table
from scutcher.core.progress import Watch
from scutcher.core.recipes.recipe import ModelSettings, Recipe, ScaleSettings
from scutcher.study.document.parts import Model, Together
from scutcher.study.document.state import State
from scutcher.study.evaluation.blocks import Member, fitted_members
from scutcher.study.evaluation.comparison_sides import Side
from scutcher.study.evaluation.evaluation import Evaluation
from scutcher.study.evaluation.shelved_model import recipe_name

LACKS = "not in all tables"

Evaluate = Callable[[Table, Recipe, Watch | None], Evaluation]


def table_beside(state: State, put: Together, other: Model) -> Table:
    """The table whose rows stand for the samples: that of the other model, or the first of the comparison."""
    dataset = other.dataset if state.together_of(other.id) is None else put.model.dataset
    return next(data.table for data in state.datasets if data.id == dataset)


def together_side(
    state: State, put: Together, other: Model, evaluate: Evaluate, watch: Watch | None = None
) -> Side:
    """A comparison of tables, fitted again, beside another model.

    Its components are those that tables share (all, where they share nothing), each as long as the mean
    share of the tables that it explains.

    Raises
    ------
    InputError
        The tables can no longer be compared.
    """
    data = {one.id: one for one in state.datasets}
    members = [Member(data[member.dataset], member) for member in put.members]
    fitted = fitted_members(members, put.settings, watch)
    table = consensus_table(fitted, table_beside(state, put, other))
    recipe = Recipe(
        scale=ScaleSettings(method="none"), model=ModelSettings(components=min(table.shape[1], 20))
    )
    told = tuple(f"{one.dataset.name}: {recipe_name(one.model.recipe)}" for one in members)
    return Side(put.model, evaluate(table, recipe, watch), tables=told)


def consensus_table(fitted: FittedBlocks, table: Table) -> Table:
    """The rows of a table by the consensus scores of their samples; those without are set aside."""
    components = fitted.model.components
    shared = [one for one in components if len(one.blocks) > 1] or list(components)
    lengths = [float(np.sqrt(np.mean(list(one.shares.values())))) for one in shared]
    scores = np.column_stack([one.consensus for one in shared]) * lengths * np.sqrt(fitted.model.n - 1.0)
    match = fitted.settings.match
    known = match if any(level.name == match for level in table.classes) else ""
    place = {name: row for row, name in enumerate(fitted.matched.ids)}
    rows = np.array([place.get(key, -1) for key in keys_of(table, known)], dtype=np.intp)
    return replace(
        table,
        values=np.where(rows[:, np.newaxis] >= 0, scores[rows], 0.0),
        axis=Axis(tuple(fitted.label(one) for one in shared)),
        name=" & ".join(fitted.names),
        set_aside={int(row): LACKS for row in np.flatnonzero(rows < 0)},
        left_out={},
    )
