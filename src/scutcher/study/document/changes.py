"""Small changes of a state that several commands make."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import replace

from scutcher.core.data.table import Table
from scutcher.core.errors import InputError
from scutcher.core.recipes.recipe import Recipe
from scutcher.core.words import count_of
from scutcher.study.document.parts import DataSet, Model, SampleUse
from scutcher.study.document.state import State

NAMED = 4
"""Samples or variables that a sentence names; of more it counts the rest."""


def model_of(state: State) -> Model:
    """The current model.

    Raises
    ------
    InputError
        There are no data yet.
    """
    if state.model is None:
        raise InputError("There are no data yet.", "Bring in a file first (Ctrl+O).")
    return state.model


def table_of(state: State) -> Table:
    """The table of the current model, as it uses it.

    Raises
    ------
    InputError
        There are no data yet.
    """
    model = model_of(state)
    return model.use.of(state.dataset_of(model).table)


def with_model(state: State, change: Callable[[Model], Model]) -> State:
    """The state with the current model changed."""
    current = model_of(state)
    changed = change(current)
    if changed is current:
        return state
    return replace(state, models=tuple(changed if m is current else m for m in state.models))


def with_recipe(state: State, recipe: Recipe) -> State:
    """The state with another recipe of the current model; itself where it is the same."""
    return state if recipe == state.recipe else with_model(state, lambda model: replace(model, recipe=recipe))


def with_use(state: State, use: SampleUse) -> State:
    """The state with the current model using other samples or variables."""
    return with_model(state, lambda model: model if model.use.same(use) else replace(model, use=use))


def with_table(state: State, table: Table) -> State:
    """The state with the data set of the current model changed: classes, properties, axis."""
    dataset = state.dataset_of(model_of(state))
    bare = replace(table, set_aside={}, left_out={})
    return with_dataset(state, replace(dataset, table=bare))


def with_dataset(state: State, changed: DataSet) -> State:
    """The state with the data set of the same id changed."""
    return replace(state, datasets=tuple(changed if d.id == changed.id else d for d in state.datasets))


def names_of(names: Sequence[str], places: Sequence[int], thing: str = "sample") -> str:
    """`L01-1, L01-2`; of many only how many: `12 samples (L01-1, L01-2, L01-3, L02-1 …)`."""
    known = [names[place] for place in places if 0 <= place < len(names)]
    if len(known) <= NAMED:
        return ", ".join(known) or count_of(0, thing)
    return f"{count_of(places, thing)} ({', '.join(known[:NAMED])} …)"
