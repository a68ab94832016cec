"""All pairs of components with their correlations; samples as pictures where their variables form a grid."""

from __future__ import annotations

import numpy as np

from scutcher.charts.emphasis import colouring_of
from scutcher.charts.sample_views import unscaled
from scutcher.core.arrays import Floats, Integers
from scutcher.core.data.axis import Axis
from scutcher.core.frozen import frozen
from scutcher.study.document.state import State
from scutcher.study.evaluation.evaluation import Evaluation

MOST = 6


@frozen(eq=False)
class Pairs:
    """The scores of the first components, and how they go together.

    Attributes
    ----------
    scores : (n, m) float array
    rows, codes : (n,) int arrays
        Rows of the table and classes.
    overall : (m, m) float array
        Correlations over all samples: zero off the diagonal for a centred model.
    within : (m, m) float array
        The mean over classes of the correlations within each, which often are not; NaN without classes.
    """

    scores: Floats
    rows: Integers
    codes: Integers
    overall: Floats
    within: Floats


def pairs(state: State, found: Evaluation) -> Pairs:
    """The first components that are kept, at most six."""
    scores = found.model.scores[:, :MOST]
    codes = colouring_of(state).codes[found.usable.rows]
    parts = [
        scores[codes == code]
        for code in np.unique(codes[(codes >= 0) & (codes < 1000)])
        if int((codes == code).sum()) > 3
    ]
    within = np.full((scores.shape[1],) * 2, np.nan)
    if parts:
        within = np.nanmean([_correlation(part) for part in parts], axis=0)
    return Pairs(scores, found.usable.rows, codes, _correlation(scores), within)


def _correlation(values: Floats) -> Floats:
    away = values - values.mean(axis=0)
    sizes = np.sqrt(np.einsum("ij,ij->j", away, away))
    found: Floats = away.T @ away / np.maximum(np.outer(sizes, sizes), 1e-300)
    return found


@frozen(eq=False)
class Landscape:
    """A picture: values over two axes, its title, and whether it has a sign."""

    title: str
    values: Floats
    signed: bool


@frozen(eq=False)
class GridAxes:
    """Variables named `a/b` that fill a grid: its rows and columns, and the place of each variable."""

    rows: Floats
    columns: Floats
    places: Integers

    def picture(self, values: Floats) -> Floats:
        """Values of the variables as a picture, (p,) → (rows, columns)."""
        flat = np.full(len(self.rows) * len(self.columns), np.nan)
        flat[self.places] = values
        return flat.reshape(len(self.rows), len(self.columns))


def grid_axes(axis: Axis) -> GridAxes | None:
    """The grid that variables named `a/b` form; None where they do not."""
    pairs_of = [label.split("/") for label in axis.labels]
    if any(len(pair) != 2 for pair in pairs_of):
        return None
    try:
        numbers = np.array(pairs_of, dtype=float)
    except ValueError:
        return None
    rows, row_of = np.unique(numbers[:, 0], return_inverse=True)
    columns, column_of = np.unique(numbers[:, 1], return_inverse=True)
    if len(rows) < 2 or len(columns) < 2 or len(axis) < 0.5 * len(rows) * len(columns):
        return None
    return GridAxes(rows, columns, (row_of * len(columns) + column_of).astype(np.intp))


def landscapes(found: Evaluation, grid: GridAxes, picked: tuple[int, ...]) -> list[Landscape]:
    """Mean and loadings; of the first picked sample itself, its rebuild and what is left over."""
    model = found.model
    mean = unscaled(found, np.zeros((1, len(model.loadings))))[0]
    pictures = [Landscape("mean", grid.picture(mean), False)]
    places = found.places()
    row = next((places[row] for row in picked if row in places), int(model.q.argmax()))
    name = found.treated.ids[row]
    rebuilt = unscaled(found, model.scores[row : row + 1] @ model.loadings.T)[0]
    measured = found.treated.values[row]
    pictures += [
        Landscape(name if picked else f"{name} (largest Q)", grid.picture(measured), False),
        Landscape(f"rebuilt from {model.k}", grid.picture(rebuilt), False),
        Landscape("left over", grid.picture(measured - rebuilt), True),
    ]
    pictures += [
        Landscape(f"loading {a + 1}", grid.picture(model.loadings[:, a]), True)
        for a in range(min(model.k, 8))
    ]
    return pictures
