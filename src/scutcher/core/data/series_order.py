"""Samples that follow each other: their positions, and which series each belongs to."""

from __future__ import annotations

import re

import numpy as np

from scutcher.core.arrays import Floats, Integers, read_only
from scutcher.core.data.layouts import GridLayout, Layout, SeriesLayout
from scutcher.core.data.table import Table
from scutcher.core.frozen import frozen
from scutcher.core.words import shown

LEAST = 5
"""Samples of a series."""

GAP = 2.5
"""Steps, of the typical ones, above which there is a gap between two samples."""

TOLD = re.compile(
    r"(?:.*\b)?(time|elapsed|minutes?|hours?|seconds?|days?|date|depth|temperature|position|distance|dose|scan)\b",
    re.I,
)


@frozen(eq=False)
class SeriesOrder:
    """Where the samples of a table stand along one or several series.

    Attributes
    ----------
    positions : (n,) float array
        Of every row; NaN where it is not known.
    title : str
        `time / min`; "order" where only the order is known.
    order : (n,) int array
        Rows by series, then by position; those without a position are left out.
    codes : (n,) int array
        Series of each row; all 0 for one.
    names : tuple of str
        Of the series; ("",) for one.
    """

    positions: Floats
    title: str
    order: Integers
    codes: Integers
    names: tuple[str, ...]

    @property
    def quantity(self) -> str:
        """What the positions are, without unit."""
        return self.title.split(" / ")[0]

    @property
    def unit(self) -> str:
        """Of the positions."""
        return self.title.partition(" / ")[2]

    def said(self, row: int) -> str:
        """The position of a row in words."""
        return f"{shown(self.positions[row], '.6g')} {self.unit}".strip()

    def of(self, code: int) -> Integers:
        """The rows of one series, by position."""
        found: Integers = self.order[self.codes[self.order] == code]
        return found


def guessed_layout(table: Table) -> SeriesLayout | None:
    """The layout of a table whose samples come one after the other: a time or depth that only rises or falls.

    None where samples have repeats: they are taken for samples of their own.
    """
    if table.replicates is not None or len(table.ids) < LEAST:
        return None
    for column in table.properties:
        steps = np.diff(column.values)
        runs = bool(np.isfinite(steps).all()) and bool((steps >= 0.0).all() or (steps <= 0.0).all())
        told = TOLD.fullmatch(column.name.strip()) is not None or " since " in column.unit
        if told and runs and bool(steps.any()):
            return SeriesLayout(column.name)
    return None


def layout_of(table: Table, layout: Layout) -> SeriesLayout | None:
    """The series that was chosen, else the one that the columns tell; None for no series."""
    if isinstance(layout, GridLayout):
        return None
    return layout if isinstance(layout, SeriesLayout) else guessed_layout(table)


def series_order(table: Table, layout: SeriesLayout) -> SeriesOrder:
    """Positions and series; a column that is gone is as if it had not been chosen."""
    n = len(table.ids)
    column = next((c for c in table.properties if c.name == layout.position), None)
    positions = np.arange(1.0, n + 1.0) if column is None else column.values
    title = "order" if column is None else column.header
    names: tuple[str, ...] = ("",)
    codes: Integers = np.zeros(n, dtype=np.intp)
    told = next((c for c in table.classes if c.name == layout.series), None)
    if told is not None and len(told.levels):
        names, codes = tuple(told.levels), told.codes()
    known = np.isfinite(positions) & (codes >= 0)
    order = np.lexsort((positions, codes))
    return SeriesOrder(
        read_only(np.asarray(positions, dtype=np.float64)), title, order[known[order]], codes, names
    )


def gaps_in(positions: Floats) -> Integers:
    """After which places of rising or falling positions there is a gap, (g,)."""
    steps = np.abs(np.diff(positions))
    some = steps[steps > 0.0]
    if len(some) < 3:
        return np.empty(0, dtype=np.intp)
    return np.flatnonzero(steps > GAP * float(np.median(some)))
