"""Commands on the data: bring in a table, read it again, add another, average replicates, name the axis."""

from __future__ import annotations

from dataclasses import replace

from scutcher.core.data.axis import Axis
from scutcher.core.data.constant_variables import leave_out_empty
from scutcher.core.data.replicates import averaged
from scutcher.core.data.table import Table
from scutcher.core.errors import InputError
from scutcher.core.frozen import frozen
from scutcher.core.recipes.recipe import Recipe
from scutcher.study.document.changes import model_of, table_of, with_table
from scutcher.study.document.parts import NOWHERE, DataSet, Model, SampleUse, Source
from scutcher.study.document.state import State, split_use

FEW_LEVELS = 12


def first_colouring(table: Table) -> str:
    """The class column that colours a new table: the first that can be told apart, else the first."""
    few = [column.name for column in table.classes if len(column.names) <= FEW_LEVELS]
    return (few or [column.name for column in table.classes] or [""])[0]


@frozen
class BringIn:
    """Make a table the data of a study that has none, with a recipe that suits it."""

    name: str
    table: Table
    recipe: Recipe
    source: Source = NOWHERE

    def label(self, state: State) -> str:
        return f"Bring in {self.name}"

    def apply(self, state: State) -> State:
        return State.of(self.name, self.table, self.recipe, first_colouring(self.table), self.source)


@frozen
class AddDataSet:
    """Put another table into the study, with a model of its own; the model of before goes to the shelf."""

    name: str
    table: Table
    recipe: Recipe
    source: Source = NOWHERE

    def label(self, state: State) -> str:
        return f"Add the data set {self.name}"

    def apply(self, state: State) -> State:
        if state.model is None:
            return BringIn(self.name, self.table, self.recipe, self.source).apply(state)
        bare, use = split_use(self.table)
        dataset = DataSet(f"d{state.made + 1}", self.name, bare, self.source)
        model = Model(f"m{state.made + 2}", "", dataset.id, recipe=self.recipe, use=use)
        return replace(
            state,
            datasets=(*state.datasets, dataset),
            models=(*state.models, model),
            current=model.id,
            colour_by=first_colouring(self.table),
            made=state.made + 2,
        )


@frozen
class ReadAgain:
    """Put what the files give now in place of the current data set: other roles, another sheet.

    The recipe stays where the variables are the same. What was set aside stays for the samples that are
    there again; other models keep the table that they were made of.
    """

    table: Table
    source: Source

    def label(self, state: State) -> str:
        return f"Read {self.table.name} again"

    def apply(self, state: State) -> State:
        before = table_of(state)
        reasons = {before.ids[row]: why for row, why in state_use(state).set_aside.items()}
        aside = {row: reasons[name] for row, name in enumerate(self.table.ids) if name in reasons}
        table = replace(self.table, set_aside={**self.table.set_aside, **aside})
        same = before.axis.labels == table.axis.labels and before.axis.ordered == table.axis.ordered
        fresh = on_new_dataset(state, table, self.source, state.recipe if same else Recipe())
        known = state.colour_by in table.column_names | {"", "run order"}
        return fresh if known else replace(fresh, colour_by=first_colouring(table))


def state_use(state: State) -> SampleUse:
    """Which samples and variables the current model uses."""
    return model_of(state).use


def on_new_dataset(state: State, table: Table, source: Source, recipe: Recipe) -> State:
    """The current model moved to another table; the old one goes where no other model needs it."""
    model = model_of(state)
    bare, use = split_use(table)
    dataset = DataSet(f"d{state.made + 1}", table.name, bare, source)
    moved = replace(model, dataset=dataset.id, use=use, recipe=recipe, reached=None)
    models = tuple(moved if old is model else old for old in state.models)
    after = replace(state, models=models)
    kept = tuple(data for data in state.datasets if data.id in after.needed)
    return replace(after, datasets=(*kept, dataset), made=state.made + 1)


@frozen
class NameAxis:
    """Say what an ordered axis is."""

    quantity: str
    unit: str

    def label(self, state: State) -> str:
        return f"Axis is {self.quantity} / {self.unit}" if self.unit else f"Axis is {self.quantity}"

    def apply(self, state: State) -> State:
        table = table_of(state)
        if not table.axis.ordered:
            raise InputError(
                "This is a table of mixed variables; it has no common axis.", "Nothing was changed."
            )
        if (table.axis.quantity, table.axis.unit) == (self.quantity, self.unit):
            return state
        axis = Axis(table.axis.labels, table.axis.positions, self.quantity, self.unit)
        return with_table(state, replace(table, axis=axis))


@frozen
class GoBackTo:
    """Go back to a named snapshot; what was done since can be had again with undo."""

    name: str
    state: State

    def label(self, state: State) -> str:
        return f"Go back to {self.name}"

    def apply(self, state: State) -> State:
        return self.state


@frozen
class AverageReplicates:
    """One sample for each replicate id, the mean of its samples."""

    def label(self, state: State) -> str:
        return "Average the replicates"

    def apply(self, state: State) -> State:
        table = leave_out_empty(averaged(table_of(state)))
        return on_new_dataset(state, table, replace(state.source, contents=()), state.recipe)
