"""Places of samples on a grid: two columns of a table say in which row and column of a picture each lies."""

from __future__ import annotations

import numpy as np

from scutcher.core.arrays import Integers
from scutcher.core.data.columns import ClassColumn, PropertyColumn
from scutcher.core.data.layouts import GridLayout
from scutcher.core.data.table import Table
from scutcher.core.errors import TableError

PLACES = (("x", "y"), ("column", "row"), ("col", "row"))
"""Names of the two columns: along a row of the picture, and down."""

SAME = 1e-6  # of the step of a grid
SPARSE = 16  # cells to a sample, from which they are sorted and not counted

IMAGE = "image"
"""Name of the class column that says which image a pixel is of, where several were read together."""


def grid_of(table: Table, names: tuple[str, str] | None = None) -> tuple[GridLayout, Integers] | None:
    """The grid that two properties of a table say, and which cell each sample is in; None for none.

    Parameters
    ----------
    table : Table
    names : (str, str), optional
        The columns along a row and down; else they are known by name.

    Raises
    ------
    TableError
        Columns that were named are not there, have gaps or are not on a grid; or two samples share a cell.
    """
    found = _columns(table, names)
    if found is None:
        return None
    across, down = (_cells(column, table) for column in found)
    if across is None or down is None:
        if names is None:
            return None
        raise TableError(
            f"{table.name}: {names[0]} and {names[1]} are not places on an even grid.",
            "Name two columns of places.",
        )
    (column, columns, step), (row, rows, _) = across, down
    cells = row * columns + column
    twice = _stand_twice(cells)
    apart = _apart(table, cells) if twice and names is None else None
    if apart is not None:  # images side by side, with an empty column between two
        codes, count = apart.codes(), len(apart.levels)
        column, columns = codes * (columns + 1) + column, count * (columns + 1) - 1
        cells = row * columns + column
    if names is None and (columns < 2 or rows < 2 or rows * columns > 4 * len(table.ids)):
        return None
    if twice and apart is None:
        if names is None:
            return None
        place = int(np.flatnonzero(np.bincount(cells) > 1)[0])
        raise TableError(
            f"{table.name}: two samples are at {names[0]} {place % columns + 1}, {names[1]} "
            f"{place // columns + 1} of the grid.",
            "Keep one of them, or stack the images.",
        )
    unit = found[0].unit
    pixels = unit.lower() in ("px", "pixel", "pixels", "")
    if pixels:
        return GridLayout(rows, columns, step if step > 1.0 else 0.0, "px" if step > 1.0 else ""), cells
    return GridLayout(rows, columns, step, unit), cells


def image_column(table: Table) -> ClassColumn | None:
    """The class column that tells several images apart; None where there is one image, or none."""
    found = _columns(table, None)
    across, down = (None, None) if found is None else (_cells(column, table) for column in found)
    if across is None or down is None:
        return None
    cells = down[0] * across[1] + across[0]
    return _apart(table, cells) if _stand_twice(cells) else None


def _stand_twice(cells: Integers) -> bool:
    """Whether two samples share a cell."""
    if cells.max(initial=0) < SPARSE * len(cells):
        return bool(np.bincount(cells).max(initial=0) > 1)
    ordered = np.sort(cells)
    return bool((ordered[1:] == ordered[:-1]).any())


def _apart(table: Table, cells: Integers) -> ClassColumn | None:
    """The class column, of those that say an image the first, with which no two samples share a cell."""
    size = int(cells.max(initial=0)) + 1
    for column in sorted(table.classes, key=lambda one: one.name.lower() not in (IMAGE, "file", "scan")):
        codes = column.codes()
        each_has_one = len(column.levels) > 1 and (codes >= 0).all() and "" not in column.levels
        if each_has_one and not _stand_twice(codes.astype(np.int64) * size + cells):
            return column
    return None


def square_numbers(layout: GridLayout, images: int, squares: int) -> Integers:
    """The square of each pixel of so many images, from 0, where the picture is cut into about so many.

    Neighbours mostly share a square, so that squares can be left out together.
    """
    rows, columns = layout.rows, layout.columns
    side = max(1, int(np.sqrt(rows * columns * images / squares)))
    down, across = -(-rows // side), -(-columns // side)
    row, column = np.divmod(np.arange(rows * columns), columns)
    one = (row // side) * across + column // side
    found: Integers = (np.arange(images)[:, np.newaxis] * (down * across) + one).ravel()
    return found


def _columns(table: Table, names: tuple[str, str] | None) -> tuple[PropertyColumn, PropertyColumn] | None:
    by_name = {column.name.strip().lower(): column for column in table.properties}
    for pair in (names,) if names else PLACES:
        if all(name.lower() in by_name for name in pair):
            return by_name[pair[0].lower()], by_name[pair[1].lower()]
    if names:
        missing = next(name for name in names if name.lower() not in by_name)
        known = ", ".join(column.name for column in table.properties) or "none"
        raise TableError(f"{table.name} has no column of places {missing!r}.", f"Its properties: {known}.")
    return None


def _cells(column: PropertyColumn, table: Table) -> tuple[Integers, int, float] | None:
    """The place of each sample in steps from the first, how many there are, and the step."""
    values = column.values
    if not np.isfinite(values).all() or not len(values):
        return None
    levels = np.unique(values)
    if len(levels) == 1:
        return np.zeros(len(values), np.intp), 1, 1.0
    step = float(np.diff(levels).min())
    places = (values - levels[0]) / step
    cells = np.rint(places).astype(np.intp)
    if np.abs(places - cells).max() > SAME * max(1.0, float(places.max())) or cells.max() > 4 * len(values):
        return None
    return cells, int(cells.max()) + 1, step
