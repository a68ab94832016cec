"""A few samples as they were measured and as rising numbers of components rebuild them."""

from __future__ import annotations

import numpy as np

from scutcher.charts.sample_views import unscaled
from scutcher.charts.space import GridAxes, grid_axes
from scutcher.core.arrays import Floats
from scutcher.core.frozen import frozen
from scutcher.study.evaluation.evaluation import Evaluation

MOST_SAMPLES, MOST_STEPS = 4, 6


@frozen(eq=False)
class Rebuild:
    """One sample by one number of components.

    Attributes
    ----------
    name : str
    measured, rebuilt : (p,) float arrays
        Deviations from the centre, in the unit of the treated data; scaled values for mixed variables.
    share : float
        How much of the sample's sum of squares (centred and scaled) is rebuilt, a fraction of one.
    """

    name: str
    measured: Floats
    rebuilt: Floats
    share: float


@frozen(eq=False)
class RebuildGrid:
    """Samples in rows, numbers of components in columns.

    Attributes
    ----------
    x, centre : (p,) float arrays
        Places of the variables, and what the values deviate from.
    steps : tuple of int
        Numbers of components, rising; the number kept is among them.
    kept : int
    rows : tuple of tuples of Rebuild
    axes : GridAxes or None
        Where the variables of a sample form a picture.
    """

    x: Floats
    centre: Floats
    steps: tuple[int, ...]
    kept: int
    rows: tuple[tuple[Rebuild, ...], ...]
    axes: GridAxes | None


def component_steps(kept: int, computed: int) -> tuple[int, ...]:
    """At most six numbers of components up to `computed`, dense at first; the number kept is among them."""
    ladder = [1, 2, 3, 5, 8, 12, 20, 30, 50]
    below = [k for k in ladder if k < kept]
    above = [k for k in ladder if kept < k <= computed]
    room = MOST_STEPS - 1
    after = above[: max(room - len(below), 2)]
    return (*below[-(room - len(after)) :], kept, *after)


def rebuild_grid(found: Evaluation, picked: tuple[int, ...]) -> RebuildGrid:
    """The picked samples that the model has, or the best and the worst rebuilt where none is picked."""
    places, model = found.places(), found.model
    rows = [places[row] for row in picked if row in places][:MOST_SAMPLES]
    if not rows:
        rows = list(dict.fromkeys([int(model.q.argmin()), int(model.q.argmax())]))
    loadings = found.decomposition.loadings
    steps = component_steps(model.k, loadings.shape[1])
    ordered = found.treated.axis.ordered
    centre = np.zeros(len(loadings))
    if ordered:
        centre = unscaled(found, centre[np.newaxis])[0]
    table = []
    for row in rows:
        z = found.scaled.rows(slice(row, row + 1))
        whole = max(float((z**2).sum()), 1e-300)
        line = []
        for k in steps:
            back = (z @ loadings[:, :k]) @ loadings[:, :k].T
            measured, rebuilt = ((unscaled(found, v)[0] - centre) if ordered else v[0] for v in (z, back))
            share = 1.0 - float(((z - back) ** 2).sum()) / whole
            line.append(Rebuild(found.treated.ids[row], measured, rebuilt, share))
        table.append(tuple(line))
    axis = found.treated.axis
    return RebuildGrid(axis.places(), centre, steps, model.k, tuple(table), grid_axes(axis))


def value_range(grid: RebuildGrid, row: int) -> tuple[float, float]:
    """Lowest and highest value of a row of the grid, so that its cells share one scale."""
    values = np.concatenate([np.r_[cell.measured, cell.rebuilt] for cell in grid.rows[row]])
    return float(np.nanmin(values)), float(np.nanmax(values))
