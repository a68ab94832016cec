"""Commands on classes: give samples a class, rename or recolour one, choose what colours everything."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from scutcher.core.data.columns import ClassColumn, PropertyColumn
from scutcher.core.data.table import Table
from scutcher.core.errors import InputError
from scutcher.core.frozen import frozen
from scutcher.core.words import count_of, typed_number
from scutcher.study.document.changes import names_of, table_of, with_table
from scutcher.study.document.state import State


def with_class_column(table: Table, column: ClassColumn) -> Table:
    """The table with one class column put in the place of the one of that name, or added."""
    if any(old.name == column.name for old in table.classes):
        classes = tuple(column if old.name == column.name else old for old in table.classes)
    else:
        classes = (*table.classes, column)
    return replace(table, classes=classes)


def still_used(levels: tuple[str, ...], values: tuple[str, ...]) -> tuple[str, ...]:
    """The levels that a sample still has; the codes of the others become free, and no colour moves."""
    return tuple(level if level in values else "" for level in levels)


@frozen
class AssignClass:
    """Give samples a level of a class column; a new column or level is made where there is none."""

    column: str
    rows: tuple[int, ...]
    level: str

    def label(self, state: State) -> str:
        return f"Tag {names_of(table_of(state).ids, self.rows)} as {self.column.strip()} {self.level.strip()}"

    def apply(self, state: State) -> State:
        table = table_of(state)
        name, level = self.column.strip(), self.level.strip()
        if not name or not level:
            raise InputError("The class or its column has no name.", "Give both a name; nothing was changed.")
        old = next((column for column in table.classes if column.name == name), None)
        values = list(old.values) if old else [""] * len(table.ids)
        for row in self.rows:
            values[row] = level
        if old and tuple(values) == old.values:
            return state
        column = ClassColumn(name, tuple(values), still_used(old.levels if old else (), tuple(values)))
        return replace(
            with_table(state, with_class_column(table, column)), colour_by=_same(state.colour_by, name)
        )


@frozen
class ClassOfGroups:
    """Make a class column of groups that were found; a column of that name is replaced."""

    column: str
    rows: tuple[int, ...]
    levels: tuple[str, ...]

    def label(self, state: State) -> str:
        return f"Make {count_of(set(self.levels), 'group')} the class column {self.column.strip()}"

    def apply(self, state: State) -> State:
        table, name = table_of(state), self.column.strip()
        if not name:
            raise InputError("The column has no name.", "Give it one; nothing was changed.")
        if any(measured.name == name for measured in table.properties):
            raise InputError(f"There is a property {name!r} already.", "Choose another name.")
        values = [""] * len(table.ids)
        for row, level in zip(self.rows, self.levels, strict=True):
            values[row] = level
        column = ClassColumn(name, tuple(values), tuple(sorted(set(self.levels))))
        return replace(with_table(state, with_class_column(table, column)), colour_by=name)


@frozen
class RenameClass:
    """Give a class another name; the name of another class merges the two."""

    column: str
    level: str
    name: str

    def label(self, state: State) -> str:
        return f"Rename {self.level} to {self.name}"

    def apply(self, state: State) -> State:
        table = table_of(state)
        old = table.class_column(self.column)
        name = self.name.strip()
        if not name:
            raise InputError("The class has no name.", "Give it one; nothing was changed.")
        if self.level not in old.levels:
            raise InputError(f"There is no class {self.level!r} in {self.column}.", "Choose one that exists.")
        if name == self.level:
            return state
        values = tuple(name if value == self.level else value for value in old.values)
        merged = "" if name in old.levels else name
        levels = tuple(merged if level == self.level else level for level in old.levels)
        return with_table(state, with_class_column(table, ClassColumn(old.name, values, levels)))


@frozen
class Recolour:
    """Give a class the colour and shape of another place; the class that has them takes its own."""

    column: str
    level: str
    place: int

    def label(self, state: State) -> str:
        return f"Change the colour of {self.level} ({self.column})"

    def apply(self, state: State) -> State:
        table = table_of(state)
        old = table.class_column(self.column)
        if self.level not in old.names:
            raise InputError(f"There is no class {self.level!r} in {self.column}.", "Choose one that exists.")
        if self.place < 0:
            raise InputError(f"There is no colour {self.place}.", "Count them from 0; nothing was changed.")
        levels = [*old.levels, *[""] * (self.place + 1 - len(old.levels))]
        here = levels.index(self.level)
        if here == self.place:
            return state
        levels[here], levels[self.place] = levels[self.place], self.level
        return with_table(state, with_class_column(table, ClassColumn(old.name, old.values, tuple(levels))))


@frozen
class ColourBy:
    """Colour everything by a class column, a property, the run order, or by nothing ("")."""

    column: str

    def label(self, state: State) -> str:
        return f"Colour by {self.column or 'nothing'}"

    def apply(self, state: State) -> State:
        table = table_of(state)
        continuous = [*(measured.name for measured in table.properties), "run order", ""]
        if self.column not in continuous:
            table.class_column(self.column)
        return state if self.column == state.colour_by else replace(state, colour_by=self.column)


@frozen
class FillColumn:
    """Write values into a class or property column, one for each row; an empty text is "not known"."""

    column: str
    rows: tuple[int, ...]
    values: tuple[str, ...]

    def label(self, state: State) -> str:
        names = names_of(table_of(state).ids, self.rows)
        if len(set(self.values)) == 1:
            return f"{self.column} of {names}: {self.values[0].strip() or 'not known'}"
        return f"Edit {self.column} of {names}"

    def apply(self, state: State) -> State:
        table = table_of(state)
        if len(self.values) != len(self.rows):
            raise InputError(
                f"There are {len(self.values)} values for {count_of(self.rows)}.",
                "Give one value per sample; nothing was changed.",
            )
        for measured in table.properties:
            if self.column in (measured.name, measured.header):
                return self._with_property(state, table, measured)
        return self._with_class(state, table)

    def _with_property(self, state: State, table: Table, measured: PropertyColumn) -> State:
        values = measured.values.copy()
        for row, text in zip(self.rows, self.values, strict=True):
            try:
                values[row] = typed_number(text) if text.strip() else np.nan
            except ValueError:
                raise InputError(
                    f"{text!r} is not a number for {measured.header} of {table.ids[row]}.",
                    "Give a number or leave it empty; nothing was changed.",
                ) from None
        if np.array_equal(values, measured.values, equal_nan=True):
            return state
        if np.isinf(values).any():
            raise InputError(f"{measured.header} cannot be infinite.", "Nothing was changed.")
        fresh = replace(measured, values=values)
        properties = tuple(fresh if old is measured else old for old in table.properties)
        return with_table(state, replace(table, properties=properties))

    def _with_class(self, state: State, table: Table) -> State:
        old = next((column for column in table.classes if column.name == self.column), None)
        values = list(old.values) if old else [""] * len(table.ids)
        for row, text in zip(self.rows, self.values, strict=True):
            values[row] = text.strip()
        if old and tuple(values) == old.values:
            return state
        levels = still_used(old.levels if old else (), tuple(values))
        column = ClassColumn(self.column, tuple(values), levels)
        return with_table(state, with_class_column(table, column))


def _same(old: str, new: str) -> str:
    """The old string itself where both are equal: a field that did not change stays the same object."""
    return old if old == new else new
