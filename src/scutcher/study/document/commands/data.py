"""Commands on the data: bring in a table, set samples aside, bring them back, name the axis."""

from __future__ import annotations

from dataclasses import dataclass, replace

from scutcher.core.data.axis import Axis
from scutcher.core.data.constant_variables import leave_out_unusable
from scutcher.core.data.replicates import averaged
from scutcher.core.data.table import Table
from scutcher.core.errors import InputError
from scutcher.core.recipes.recipe import Recipe
from scutcher.core.words import count_of
from scutcher.study.document.state import NOWHERE, Source, State


def table_of(state: State) -> Table:
    """The table of a state that has one.

    Raises
    ------
    InputError
        There are no data yet.
    """
    if state.table is None:
        raise InputError("There are no data yet.", "Bring in a file first (Ctrl+O).")
    return state.table


FEW_LEVELS = 12


@dataclass(frozen=True)
class BringIn:
    """Make a table the study's data, with a recipe that suits it."""

    name: str
    table: Table
    recipe: Recipe
    source: Source = NOWHERE

    @property
    def label(self) -> str:
        return f"Bring in {self.name}"

    def apply(self, state: State) -> State:
        return State(self.name, self.table, self.recipe, first_colouring(self.table), self.source)


def first_colouring(table: Table) -> str:
    """The class column that colours a new table: the first that can be told apart, else the first."""
    few = [column.name for column in table.classes if len(column.names) <= FEW_LEVELS]
    return (few or [column.name for column in table.classes] or [""])[0]


@dataclass(frozen=True)
class SetAside:
    """Take samples out of every model, with a reason that stays with them."""

    rows: tuple[int, ...]
    reason: str

    @property
    def label(self) -> str:
        return f"Set aside {count_of(self.rows)}: {self.reason}"

    def apply(self, state: State) -> State:
        table = table_of(state)
        reason = self.reason.strip()
        if not reason:
            raise InputError(
                "No reason was given.", "Say why these samples are set aside; nothing was changed."
            )
        if not set(self.rows) - set(table.set_aside):
            return state
        left = len(table.used_rows()) - len(set(self.rows) - set(table.set_aside))
        if left < 2:
            raise InputError(f"Only {count_of(left)} would be left.", "Keep at least 2; nothing was changed.")
        return replace(
            state, table=replace(table, set_aside={**table.set_aside, **dict.fromkeys(self.rows, reason)})
        )


@dataclass(frozen=True)
class BringBack:
    """Let samples that were set aside into the models again."""

    rows: tuple[int, ...]

    @property
    def label(self) -> str:
        return f"Bring back {count_of(self.rows)}"

    def apply(self, state: State) -> State:
        table = table_of(state)
        if not set(self.rows) & set(table.set_aside):
            return state
        kept = {row: reason for row, reason in table.set_aside.items() if row not in self.rows}
        return replace(state, table=replace(table, set_aside=kept))


@dataclass(frozen=True)
class NameAxis:
    """Say what an ordered axis is."""

    quantity: str
    unit: str

    @property
    def label(self) -> str:
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
        return replace(state, table=replace(table, axis=axis))


@dataclass(frozen=True)
class GoBackTo:
    """Go back to a named snapshot; what was done since can be had again with undo."""

    name: str
    state: State

    @property
    def label(self) -> str:
        return f"Go back to {self.name}"

    def apply(self, state: State) -> State:
        return self.state


@dataclass(frozen=True)
class LeaveOutVariables:
    """Take variables out of every model, with a reason."""

    columns: tuple[int, ...]
    reason: str

    @property
    def label(self) -> str:
        return f"Leave out {count_of(self.columns, 'variable')}: {self.reason}"

    def apply(self, state: State) -> State:
        table = table_of(state)
        reason = self.reason.strip()
        if not reason:
            raise InputError(
                "No reason was given.", "Say why these variables are left out; nothing was changed."
            )
        fresh = set(self.columns) - set(table.left_out)
        left = len(table.used_columns()) - len(fresh)
        if not fresh:
            return state
        if left < 2:
            raise InputError(
                f"Only {count_of(left, 'variable')} would be left.",
                "Keep at least 2; nothing was changed.",
            )
        return replace(
            state, table=replace(table, left_out={**table.left_out, **dict.fromkeys(self.columns, reason)})
        )


@dataclass(frozen=True)
class BringBackVariables:
    """Let variables that were left out into the models again; constant and empty ones stay out."""

    columns: tuple[int, ...]

    @property
    def label(self) -> str:
        return f"Bring back {count_of(self.columns, 'variable')}"

    def apply(self, state: State) -> State:
        table = table_of(state)
        kept = {column: why for column, why in table.left_out.items() if column not in self.columns}
        fresh = leave_out_unusable(replace(table, left_out=kept))
        if fresh.left_out == table.left_out:
            return state
        return replace(state, table=fresh)


@dataclass(frozen=True)
class AverageReplicates:
    """One sample for each replicate id, the mean of its samples."""

    @property
    def label(self) -> str:
        return "Average the replicates"

    def apply(self, state: State) -> State:
        return replace(state, table=leave_out_unusable(averaged(table_of(state))))
