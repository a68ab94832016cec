"""Shapes that can leave the house: all that is needed to treat new spectra and find their amounts."""

from __future__ import annotations

from typing import Any

import numpy as np

from scutcher.core.arrays import Floats, Integers
from scutcher.core.data.axis import Axis
from scutcher.core.data.table import Table
from scutcher.core.distances.limits import Limit
from scutcher.core.errors import TableError
from scutcher.core.frozen import frozen
from scutcher.core.models.pca.saved_model import on_axis_of
from scutcher.core.recipes.chain import apply_chain
from scutcher.core.recipes.recipe import Step
from scutcher.core.recipes.unmix_settings import SumRule
from scutcher.core.unmixing.mixture import bands_of, noise_of_shapes
from scutcher.core.unmixing.shape_sums import ShapeSums, shape_sums


@frozen(eq=False)
class SavedMixture:
    """Shapes, apart from the spectra that they were found in.

    Attributes
    ----------
    axis : Axis
        The variables that go in.
    steps, learned : the treatments that ran, and what each learned
    treated_labels : tuple of p str
        The variables after treatment.
    names : tuple of q str
    shapes : (q, p) float array
    rule : "not-negative", "free" or "sum-to-one"
    background : int
        Degree; −1 for none.
    q_limit : Limit
        Of the squares left over.
    means_of : tuple of q int
        How many noisy spectra each shape is the mean of; 0 for none.
    """

    axis: Axis
    steps: tuple[Step, ...]
    learned: tuple[Any, ...]
    treated_labels: tuple[str, ...]
    names: tuple[str, ...]
    shapes: Floats
    rule: SumRule
    background: int
    q_limit: Limit
    means_of: tuple[int, ...] = ()


@frozen(eq=False)
class NewAmounts:
    """Amounts in new spectra, for the rows of `table` (treated, m of the n given).

    Attributes
    ----------
    names : tuple of q str
    table : Table
    rows : (m,) int array
    sums : ShapeSums
    low, high : (m, q) float arrays
        95 % bands.
    q : (m,) float array
        Squares left over, divided by what noise of the shapes adds.
    past : (m,) bool array or None
        Whether more is left over than noise explains.
    notes : tuple of str
    """

    names: tuple[str, ...]
    table: Table
    rows: Integers
    sums: ShapeSums
    low: Floats
    high: Floats
    q: Floats
    past: np.ndarray | None
    notes: tuple[str, ...]


def amounts_in(model: SavedMixture, table: Table, resample: bool = False) -> NewAmounts:
    """Amounts of a saved model's shapes in new spectra.

    Raises
    ------
    TableError
        Variables of the model are missing, or a spectrum has gaps.
    """
    matched, notes = on_axis_of(model.axis, table, resample)
    rows = table.used_rows()
    part = matched.take(rows)
    if part.has_gaps:
        row = int(part.gaps().any(axis=1).argmax())
        raise TableError(
            f"The spectrum {part.ids[row]} has gaps: amounts are of complete spectra.",
            "Fill its gaps, or leave it out.",
        )
    treated = apply_chain(part, model.steps, model.learned)
    if treated.axis.labels != model.treated_labels:
        raise TableError(
            f"After treatment there are {len(treated.axis)} variables, the model has "
            f"{len(model.treated_labels)}.",
            "The new spectra are not of the kind that the model was made from.",
        )
    sums = shape_sums(treated.values, model.shapes, model.rule, model.background, ordered=False)
    grown = noise_of_shapes(sums.amounts, model.means_of)
    low, high = bands_of(sums, grown)
    q = np.einsum("ij,ij->i", sums.residuals, sums.residuals) / grown**2
    past = None if model.q_limit.value is None else q > model.q_limit.value
    return NewAmounts(model.names, treated, rows, sums, low, high, q, past, notes)
