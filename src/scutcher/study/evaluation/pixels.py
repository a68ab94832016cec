"""Samples that are pixels: where they lie, and what of their picture takes longer than a frame."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from weakref import WeakKeyDictionary

import numpy as np

from scutcher.core.arrays import Booleans, Floats, Integers
from scutcher.core.data.grid import grid_of
from scutcher.core.data.layouts import GridLayout
from scutcher.core.data.matrix import Folded
from scutcher.core.data.table import Table
from scutcher.core.images.image import Image
from scutcher.core.images.pixel_groups import HowManyGroups, how_many_groups, pixel_groups
from scutcher.core.images.pixel_treatment import PixelTreatment
from scutcher.core.images.smooth_order import smooth_order
from scutcher.core.progress import Watch, part
from scutcher.study.evaluation.evaluation import Evaluation

MOST_SMOOTH = 8
"""Components by smoothness that are kept for maps."""


@dataclass(frozen=True, eq=False)
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


@dataclass(frozen=True, eq=False)
class Behind:
    """What takes longer than a frame, for the rows of the model.

    Attributes
    ----------
    smooth : (n, s) float array or None
        Scores of the smoothest components.
    patterns : (p, s) float array or None
    autocorrelation : (s,) float array or None
    limit : float
        What noise stays under.
    groups : (n,) int array or None
    judged : HowManyGroups or None
        What speaks for which number of them.
    """

    smooth: Floats | None = None
    patterns: Floats | None = None
    autocorrelation: Floats | None = None
    limit: float = 0.0
    groups: Integers | None = None
    judged: HowManyGroups | None = None


def smooth_of(found: Evaluation, grid: PixelGrid, watch: Watch | None = None) -> Behind:
    """The treated pixels on the components in the order of their smoothness.

    Raises
    ------
    ModelError
        No two neighbours differ.
    """
    treated, cells = found.treated, grid.cells[found.usable.rows]
    n = grid.layout.rows * grid.layout.columns
    values = np.full((n, treated.values.shape[1]), np.nan)
    values[cells] = treated.values
    mask = np.zeros(n, dtype=bool)
    mask[cells] = True
    image = Image(Folded(values), grid.layout, treated.axis, mask)
    order = smooth_order(PixelTreatment(image), watch=watch)
    scores = order.scores(treated.values)[:, :MOST_SMOOTH]
    patterns = order.patterns[:, :MOST_SMOOTH]
    return Behind(scores, patterns, order.autocorrelation[:MOST_SMOOTH], order.limit)


def groups_of(
    found: Evaluation, count: int, judged: HowManyGroups | None, watch: Watch | None = None
) -> Behind:
    """The pixels in so many groups, in the scores of the components that are kept."""
    labels = pixel_groups(found.model.scores, count, watch=watch and part(watch, 0.0, 0.5)).labels
    judged = judged or how_many_groups(found.model.scores, watch=watch and part(watch, 0.5, 1.0))
    return Behind(groups=labels, judged=judged)
