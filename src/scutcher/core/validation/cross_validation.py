"""Cross-validation: everything learned from the set is learned again without the samples left out."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from scutcher.core.arrays import Floats, Integers
from scutcher.core.data.constant_variables import constant_after
from scutcher.core.data.table import Table
from scutcher.core.distances.held_out_limits import HeldOutDistances, left_out_distances
from scutcher.core.errors import ModelError, RecipeError
from scutcher.core.models.missing_values import filled, fills
from scutcher.core.models.pca.engines.choice import leading_loadings
from scutcher.core.progress import Watch, pulse, tell
from scutcher.core.recipes.chain import apply_step, run_step
from scutcher.core.recipes.recipe import Recipe, Step, ValidateSettings
from scutcher.core.scaling.scaled_matrix import Scaled
from scutcher.core.scaling.scaler import fit_scaler, without
from scutcher.core.validation.press import predicted_squares, rowwise_squares
from scutcher.core.validation.segments import group_codes, make_segments
from scutcher.core.validation.stability import MOST_KEPT, SegmentModels, segment_models

MOST = 15  # components that are validated, where there are so many


@dataclass(frozen=True, eq=False)
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
    if recipe.model.gaps in ("nipals", "em") and part.has_gaps:
        raise ModelError(
            "Held-out error is not defined for a model around gaps.",
            "Fill or leave out the gaps to validate.",
        )
    steps = [step for step in recipe.treat if step.on]
    base, first = _before_learning(part, steps, recipe.model.gaps)
    found = make_segments(part, recipe.validate)
    whole = _treated_width(base, steps[first:], recipe)
    block = block_width(whole, recipe.validate)
    scaling = recipe.scaling_for(whole.axis.ordered)
    centred = scaling.centre != "none"
    smallest = len(part.ids) - max(len(rows) for repeat in found.parts for rows in repeat)
    most = min(max(k, MOST), smallest - 1 if centred else smallest, whole.shape[1])
    if most < 1:
        raise ModelError("A segment leaves too few samples to fit a component.", "Choose more segments.")
    sums: list[_Segment] = []
    count = sum(len(repeat) for repeat in found.parts)
    left = [rows for repeat in found.parts for rows in repeat]
    keeping = count * whole.shape[1] * most <= MOST_KEPT
    for rows in left:
        tell(watch, len(sums) / count)
        one = _segment(part, base, steps[first:], recipe, rows, most, block, pulse(watch))
        sums.append(one if keeping else replace(one, loadings=one.loadings[:0]))
    distances = _distances(sums, left, part)
    pooled = _pooled(sums, len(found.parts), found.never, recipe.validate, block, found.column)
    models = None
    if keeping and all(one.labels == whole.axis.labels for one in sums):
        models = segment_models(
            [one.loadings for one in sums], [one.scores for one in sums], left, len(found.parts)
        )
    return replace(pooled, distances=distances, models=models)


@dataclass(frozen=True, eq=False)
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


def _before_learning(part: Table, steps: Sequence[Step], gaps: str) -> tuple[Table, int]:
    """The row-wise steps before the first that learns, done once; and how many those are."""
    if part.has_gaps and gaps in ("fill-mean", "fill-median"):
        return part, 0
    first = 0
    for step in steps:
        if step.treatment.learns:
            break
        part = run_step(part, step).table
        first += 1
    return part, first


def _treated_width(base: Table, steps: Sequence[Step], recipe: Recipe) -> Table:
    """A treated table, for its variables."""
    table = filled(base, fills(base.values, recipe.model.gaps) if base.has_gaps else None)
    for step in steps:
        table = run_step(table, step).table
    return table


def _segment(
    part: Table,
    base: Table,
    steps: Sequence[Step],
    recipe: Recipe,
    rows: Integers,
    most: int,
    block: int,
    watch: Watch | None,
) -> _Segment:
    """Leave some rows out, learn everything without them, and see how they fit."""
    kept = np.ones(len(base.ids), dtype=bool)
    kept[rows] = False
    training, left = base.take(np.flatnonzero(kept)), base.take(rows)
    fill = fills(training.values, recipe.model.gaps) if base.has_gaps else None
    training, left = filled(training, fill), filled(left, fill)
    for step in steps:
        tell(watch, 0.0)
        done = run_step(training, step, watch)
        training, left = done.table, apply_step(left, step, done.learned)
    scaler = fit_scaler(training.values, recipe.scaling_for(training.axis.ordered), training.axis)
    ran = [step.method for step in recipe.treat if step.on]
    scaler = without(scaler, constant_after(part, training.axis, ran, np.flatnonzero(kept)))
    tell(watch, 0.0)
    seen = Scaled(training.values, scaler)
    loadings = leading_loadings(seen, scaler.centred, most, watch)
    z = scaler.apply(left.values)
    predicted, rowwise = np.full(most, np.nan), np.full(most, np.nan)
    there = loadings.shape[1]
    predicted[:there] = predicted_squares(z, loadings, block)
    rowwise[:there] = rowwise_squares(z, loadings)
    scores = np.full((len(z), most), np.nan)
    scores[:, :there] = z @ loadings
    distances = _to_segment(seen, loadings, z, scores, scaler.centred, watch)
    total = float(np.einsum("ij,ij->", z, z))
    return _Segment(predicted, rowwise, total, distances, scores, training.axis.labels, loadings)


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
