"""Cross-validation: everything learned from the set is learned again without the samples left out."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from scutcher.core.arrays import Floats, Integers
from scutcher.core.data.table import Table
from scutcher.core.distances.held_out_limits import HeldOutDistances, left_out_distances
from scutcher.core.errors import ModelError, RecipeError
from scutcher.core.frozen import frozen
from scutcher.core.models.pca.engines.choice import leading_loadings
from scutcher.core.progress import Watch, pulse, tell
from scutcher.core.recipes.recipe import Recipe, ValidateSettings
from scutcher.core.scaling.scaled_matrix import Scaled
from scutcher.core.validation.left_out import Leaving
from scutcher.core.validation.press import predicted_squares, rowwise_squares
from scutcher.core.validation.segments import group_codes
from scutcher.core.validation.stability import MOST_KEPT, SegmentModels, segment_models

MOST = 15  # components that are validated, where there are so many


@frozen(eq=False)
class Validation:
    """Held-out error with 1…K components.

    Attributes
    ----------
    settings : ValidateSettings
        What was asked for.
    segments : int
        In each repeat.
    block : int
        Variables predicted together.
    column : str
        The class column, for segments by class.
    press : (K,) float array
        Sum of the squared residuals over all segments, in the unit of Z squared, mean over repeats; NaN
        where undefined.
    total : float
        Sum of squares of the same left-out values, mean over repeats.
    error : (K,) float array
        Standard error of PRESS: of one repeat from the spread of its segments, over repeats the root of the
        mean square, which does not shrink with repeats.
    rowwise : (K,) float array
        The same sum where each row helps to predict itself: optimistic.
    never : (u,) int array
        Rows that were left out of no segment.
    distances : HeldOutDistances or None
        Of the left-out samples to the models of their segments.
    models : SegmentModels or None
        What the segments found; None where they have other variables than the whole set, or are too many.
    """

    settings: ValidateSettings
    segments: int
    block: int
    column: str
    press: Floats
    total: float
    error: Floats
    rowwise: Floats
    never: Integers
    distances: HeldOutDistances | None = None
    models: SegmentModels | None = None

    @property
    def q2(self) -> Floats:
        """`1 − PRESS_k / Σ z²`, (K,), fractions of one; NaN where undefined."""
        return 1.0 - self.press / self.total

    @property
    def q2_error(self) -> Floats:
        """Standard error of Q², (K,)."""
        return self.error / self.total

    @property
    def q2_rowwise(self) -> Floats:
        """The optimistic figure, (K,)."""
        return 1.0 - self.rowwise / self.total


def block_width(table: Table, settings: ValidateSettings) -> int:
    """Variables predicted together: as set, else 1 for a table and p/20 for an ordered axis."""
    p = table.shape[1]
    usual = max(1, round(p / 20)) if table.axis.ordered else 1
    block = settings.block or usual
    if block >= p:
        raise RecipeError(
            f"Blocks of {block} variables leave none of {p} to predict from.", f"Choose 1 to {p - 1}."
        )
    return block


def validate(part: Table, recipe: Recipe, k: int, watch: Watch | None = None) -> Validation:
    """Cross-validate a recipe.

    Parameters
    ----------
    part : Table
        The samples and variables in the model, before treatment.
    recipe : Recipe
        Steps that are off are passed over.
    k : int
        At least so many components are validated where every segment has them, and at least 15.
    watch : Watch, optional
        Told after each segment.

    Raises
    ------
    InputError
        Segments cannot be made; a treatment fails without the samples left out; Stopped.
    """
    leaving = Leaving(part, recipe)
    block = block_width(leaving.whole, recipe.validate)
    most, left = min(max(k, MOST), leaving.most), leaving.left
    if most < 1:
        raise ModelError("A segment leaves too few samples to fit a component.", "Choose more segments.")
    sums: list[_Segment] = []
    keeping = len(left) * leaving.whole.shape[1] * most <= MOST_KEPT
    for rows in left:
        tell(watch, len(sums) / len(left))
        one = _segment(leaving, rows, most, block, pulse(watch))
        sums.append(one if keeping else replace(one, loadings=one.loadings[:0]))
    found, repeats = leaving.segments, len(leaving.segments.parts)
    distances = _distances(sums, left, part)
    pooled = _pooled(sums, repeats, found.never, recipe.validate, block, found.column)
    models = None
    if keeping and all(one.labels == leaving.whole.axis.labels for one in sums):
        models = segment_models([one.loadings for one in sums], [one.scores for one in sums], left, repeats)
    return replace(pooled, distances=distances, models=models)


@frozen(eq=False)
class _Segment:
    """What one segment gives: squares predicted and row-wise (K,), their total, and of what it leaves out the
    distances T², h and Q and the scores, each (m, K); its variables, and its loadings (p, at most K)."""

    predicted: Floats
    rowwise: Floats
    total: float
    distances: tuple[Floats, Floats, Floats]
    scores: Floats
    labels: Sequence[str]
    loadings: Floats


def _distances(sums: Sequence[_Segment], left: Sequence[Integers], part: Table) -> HeldOutDistances:
    """The distances of all segments and repeats together."""
    rows = np.concatenate(list(left))
    t2, h, q = (np.concatenate([one.distances[place] for one in sums]) for place in range(3))
    groups = len(np.unique(group_codes(part)[rows]))
    total = sum(one.total for one in sums) / max(len(rows), 1)
    return HeldOutDistances(rows, t2, h, q, total, groups)


def _segment(leaving: Leaving, rows: Integers, most: int, block: int, watch: Watch | None) -> _Segment:
    """Leave some rows out, learn everything without them, and see how they fit."""
    out = leaving.leave(rows, watch)
    seen, z = out.seen, out.z
    loadings = leading_loadings(seen, out.scaler.centred, most, watch)
    predicted, rowwise = np.full(most, np.nan), np.full(most, np.nan)
    there = loadings.shape[1]
    predicted[:there] = predicted_squares(z, loadings, block)
    rowwise[:there] = rowwise_squares(z, loadings)
    scores = np.full((len(z), most), np.nan)
    scores[:, :there] = z @ loadings
    distances = _to_segment(seen, loadings, z, scores, out.scaler.centred, watch)
    total = float(np.einsum("ij,ij->", z, z))
    return _Segment(predicted, rowwise, total, distances, scores, out.labels, loadings)


def _to_segment(
    seen: Scaled, loadings: Floats, z: Floats, left: Floats, centred: bool, watch: Watch | None
) -> tuple[Floats, Floats, Floats]:
    """T², h and Q of left-out samples `z` with scores `left` to the model of the others, (m, K) each."""
    n = seen.shape[0]
    scores = seen.onto(loadings, watch)[0]
    eigenvalues = np.einsum("ij,ij->j", scores, scores) / max(n - centred, 1)
    there = loadings.shape[1]
    wide = np.full((3, *left.shape), np.nan)
    wide[:, :, :there] = left_out_distances(z, left[:, :there], eigenvalues, n)
    return wide[0], wide[1], wide[2]


def _pooled(
    sums: list[_Segment],
    repeats: int,
    never: Integers,
    settings: ValidateSettings,
    block: int,
    column: str,
) -> Validation:
    predicted = np.array([one.predicted for one in sums])  # (segments · repeats, K)
    count = len(sums) // repeats
    spreads = predicted.reshape(repeats, count, -1).std(axis=1, ddof=1) * np.sqrt(count)
    return Validation(
        settings=settings,
        segments=count,
        block=block,
        column=column,
        press=predicted.sum(axis=0) / repeats,
        total=sum(one.total for one in sums) / repeats,
        error=np.sqrt((spreads**2).mean(axis=0)),
        rowwise=np.array([one.rowwise for one in sums]).sum(axis=0) / repeats,
        never=never,
    )
