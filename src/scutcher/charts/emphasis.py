"""Which samples stand out: one rule for every view."""

from __future__ import annotations

from dataclasses import replace
from weakref import WeakKeyDictionary

import numpy as np

from scutcher.charts import colours
from scutcher.charts.description import Chart
from scutcher.core.arrays import Floats, Integers
from scutcher.core.data.names import Names
from scutcher.core.data.table import Table
from scutcher.core.frozen import frozen
from scutcher.study.document.state import State
from scutcher.study.selection import Look

HIDDEN, FADED, PLAIN, FRONT = -1, 0, 1, 2


RUN_ORDER = "run order"


@frozen
class Scale:
    """A continuous colour scale: its ends and its unit."""

    low: float
    high: float
    unit: str = ""


@frozen(eq=False)
class Colouring:
    """How samples are coloured, everywhere.

    Attributes
    ----------
    column : str
        The class column, the property, RUN_ORDER, or "" for none.
    levels : tuple of str
        The classes by their codes, "" where a code is free; empty where the colouring is continuous.
    codes : (n,) int array
        The class of each row of the table, −1 for none; or colours.CONTINUOUS + the step on the scale.
    scale : Scale or None
        For a continuous colouring.
    """

    column: str
    levels: tuple[str, ...]
    codes: Integers
    scale: Scale | None = None

    def named(self) -> tuple[tuple[int, str], ...]:
        """Code and name of each class."""
        return tuple((code, level) for code, level in enumerate(self.levels) if level)

    def counts(self) -> Integers:
        """Samples in each level."""
        inside = (self.codes >= 0) & (self.codes < len(self.levels))
        return np.bincount(self.codes[inside], minlength=len(self.levels))


_made: WeakKeyDictionary[Table, dict[str, Colouring]] = WeakKeyDictionary()
"""The colourings of the tables that are alive."""


def colouring_of(state: State) -> Colouring:
    """The colouring that a study asks for; without a class column every code is −1.

    The same object for the same table and column.
    """
    table = state.table
    if table is None:
        return Colouring("", (), np.empty(0, dtype=np.intp))
    made = _made.setdefault(table, {})
    if state.colour_by not in made:
        made[state.colour_by] = _colouring(state, table)
    return made[state.colour_by]


def _colouring(state: State, table: Table) -> Colouring:
    for column in table.classes:
        if column.name == state.colour_by:
            return Colouring(column.name, column.levels, column.codes())
    for measured in table.properties:
        if measured.name == state.colour_by:
            return _continuous(measured.name, measured.values, measured.unit)
    if state.colour_by == RUN_ORDER:
        return _continuous(RUN_ORDER, np.arange(1.0, len(table.ids) + 1.0), "")
    return Colouring("", (), np.full(len(table.ids), -1, dtype=np.intp))


def _continuous(name: str, values: Floats, unit: str) -> Colouring:
    known = np.isfinite(values)
    low, high = (float(values[known].min()), float(values[known].max())) if known.any() else (0.0, 1.0)
    steps = np.clip((values - low) / ((high - low) or 1.0) * colours.STEPS, 0, colours.STEPS - 1)
    codes = np.where(known, colours.CONTINUOUS + np.nan_to_num(steps).astype(np.intp), -1)
    return Colouring(name, (), codes, Scale(low, high, unit))


def emphasis(keys: Integers, codes: Integers, look: Look, levels: tuple[str, ...]) -> Integers:
    """How strongly each sample is drawn.

    Parameters
    ----------
    keys, codes : (m,) int arrays
        Rows of the table and their classes.
    look : Look
        The pick and the class in focus.
    levels : tuple of str
        The class names.

    Returns
    -------
    (m,) int array
        FRONT for the picked; FADED for the others while something is picked, and for the classes that
        are not in focus (HIDDEN where one class is singled out); else PLAIN.
    """
    strength = np.full(len(keys), FADED if look.picked else PLAIN, dtype=np.intp)
    if look.focus in levels:
        others = codes != levels.index(look.focus)
        strength[others] = HIDDEN if look.alone else FADED
    if look.picked:
        shown = strength != HIDDEN
        strength[np.isin(keys, look.picked) & shown] = FRONT
    return strength


def chart_strength(chart: Chart, look: Look, levels: tuple[str, ...]) -> Integers:
    """How strongly each mark or line of a chart is drawn; components are always plain, and a mean of a
    class is not hidden by a pick."""
    series = chart.marks if chart.marks is not None else chart.lines
    if series is None:
        return np.empty(0, dtype=np.intp)
    role = "sample" if chart.lines is None else chart.lines.role
    if role == "component":
        return np.full(len(series.keys), PLAIN)
    if role == "class":
        look = replace(look, picked=())
    return emphasis(series.keys, series.codes, look, levels)


def ids_of_rows(table: Table, rows: Integers) -> Names:
    """The ids of some rows of the table."""
    return Names.of(table.ids).take(rows)
