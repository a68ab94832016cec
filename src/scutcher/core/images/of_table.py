"""A table whose samples lie on a grid, as an image."""

from __future__ import annotations

import numpy as np

from scutcher.core.arrays import Floats, Integers
from scutcher.core.data.grid import grid_of
from scutcher.core.data.layouts import GridLayout
from scutcher.core.data.matrix import Folded
from scutcher.core.data.table import Table
from scutcher.core.errors import TableError
from scutcher.core.images.image import Image


def image_of_table(table: Table, names: tuple[str, str] | None = None) -> Image:
    """The image that a table is.

    Raises
    ------
    TableError
        It is none.
    """
    found = grid_of(table, names)
    if found is None:
        raise TableError(
            f"{table.name} has no two columns of places.",
            "Bring in an array of rows × columns × channels, or name the columns of the places.",
        )
    return as_image(table, *found)


def as_image(table: Table, layout: GridLayout, cells: Integers) -> Image:
    """A table on its grid; samples that are set aside and cells that none is in lie outside the mask."""
    n, p = layout.rows * layout.columns, len(table.axis)
    used = table.used_rows()
    mask = np.zeros(n, dtype=bool)
    mask[cells[used]] = True
    values: Floats = table.values
    if n != len(table.ids) or (cells != np.arange(n)).any():
        values = np.full((n, p), np.nan)
        values[cells] = table.values
    return Image(
        Folded(values),
        layout,
        table.axis,
        None if mask.all() else mask,
        table.name,
        table.signal,
        table.signal_unit,
    )
