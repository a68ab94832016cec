"""Which samples stand out: one rule for every view."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from scutcher.core.arrays import Integers
from scutcher.core.table import Table
from scutcher.study.attention import Look
from scutcher.study.state import State

HIDDEN, FADED, PLAIN, FRONT = -1, 0, 1, 2


@dataclass(frozen=True, eq=False)
class Colouring:
    """How samples are coloured: the class column, its levels, the level of every row of the table."""

    column: str
    levels: tuple[str, ...]
    codes: Integers

    def counts(self) -> Integers:
        """Samples in each level."""
        return np.bincount(self.codes[self.codes >= 0], minlength=len(self.levels))


def colouring_of(state: State) -> Colouring:
    """The colouring that a study asks for; without a class column every code is −1."""
    table = state.table
    if table is None:
        return Colouring("", (), np.empty(0, dtype=np.intp))
    for column in table.classes:
        if column.name == state.colour_by:
            return Colouring(column.name, column.levels, column.codes())
    return Colouring("", (), np.full(len(table.ids), -1, dtype=np.intp))


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


def codes_of_rows(colouring: Colouring, rows: Integers) -> Integers:
    """The class codes of some rows of the table."""
    return colouring.codes[rows]


def ids_of_rows(table: Table, rows: Integers) -> tuple[str, ...]:
    """The ids of some rows of the table."""
    return tuple(table.ids[row] for row in rows)
