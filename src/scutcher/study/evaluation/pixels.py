"""Samples that are pixels: where they lie."""

from __future__ import annotations

from collections.abc import Sequence
from weakref import WeakKeyDictionary

import numpy as np

from scutcher.core.arrays import Booleans, Floats, Integers
from scutcher.core.data.grid import grid_of
from scutcher.core.data.layouts import GridLayout
from scutcher.core.data.table import Table
from scutcher.core.frozen import frozen


@frozen(eq=False)
class PixelGrid:
    """Where the samples of a table lie on a picture.

    Attributes
    ----------
    layout : GridLayout
    cells : (n,) int array
        Row by row, the cell of each sample.
    rows_at : (rows × columns,) int array
        The sample in each cell, −1 where there is none.
    """

    layout: GridLayout
    cells: Integers
    rows_at: Integers

    @property
    def shape(self) -> tuple[int, int]:
        """Rows and columns."""
        return self.layout.rows, self.layout.columns

    def picture(self, rows: Integers, values: Floats) -> Floats:
        """Values of some samples as a map, NaN elsewhere."""
        found = np.full(self.layout.rows * self.layout.columns, np.nan)
        found[self.cells[rows]] = values
        return found.reshape(self.shape)

    def inside(self, rows: Sequence[int] | Integers) -> Booleans:
        """Some samples as a map."""
        found = np.zeros(self.layout.rows * self.layout.columns, dtype=bool)
        found[self.cells[np.asarray(rows, dtype=np.intp)]] = True
        return found.reshape(self.shape)

    def rows_in(self, inside: Booleans) -> Integers:
        """The samples in some cells of a map, row by row."""
        found = self.rows_at[inside.ravel()]
        return found[found >= 0]


_grids: WeakKeyDictionary[Table, PixelGrid | None] = WeakKeyDictionary()


def pixel_grid(table: Table | None) -> PixelGrid | None:
    """The grid of a table's samples; None where they are no pixels. The same object for the same table."""
    if table is None:
        return None
    if table not in _grids:
        found = grid_of(table)
        if found is None:
            _grids[table] = None
        else:
            layout, cells = found
            rows_at = np.full(layout.rows * layout.columns, -1, np.intp)
            rows_at[cells] = np.arange(len(cells))
            _grids[table] = PixelGrid(layout, cells, rows_at)
    return _grids[table]


def step_of(table: Table) -> int:
    """Every so-manieth row and column of the image is in the table; 1 for all."""
    named = {column.name.lower(): column.values for column in table.properties}
    rows = np.unique(named.get("row", named.get("y", np.empty(0))))
    return max(1, round(float(np.diff(rows).min()))) if len(rows) > 1 else 1
