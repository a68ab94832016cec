"""Leaves segments of samples out: everything that is learned from the set is learned again without them."""

from __future__ import annotations

from collections.abc import Sequence

import numpy as np

from scutcher.core.arrays import Floats, Integers
from scutcher.core.data.constant_variables import constant_after
from scutcher.core.data.table import Table
from scutcher.core.errors import ModelError
from scutcher.core.frozen import frozen
from scutcher.core.models.missing_values import filled, fills
from scutcher.core.progress import Watch, tell
from scutcher.core.recipes.chain import apply_step, run_step
from scutcher.core.recipes.recipe import Recipe, Step
from scutcher.core.scaling.scaled_matrix import Scaled
from scutcher.core.scaling.scaler import Scaler, fit_scaler, without
from scutcher.core.validation.segments import Segments, make_segments


@frozen(eq=False)
class LeftOut:
    """A segment that is left out, and what the other samples taught.

    Attributes
    ----------
    rows, kept : int arrays
        Rows of the table that are left out, and those that are not.
    scaler : Scaler
        Learned from those that are kept.
    seen : Scaled
        Those, treated, centred and scaled, (n_s, p).
    z : (m, p) float array
        The left-out samples, treated, centred and scaled by what the others taught.
    labels : sequence of p str
        The variables after treatment.
    """

    rows: Integers
    kept: Integers
    scaler: Scaler
    seen: Scaled
    z: Floats
    labels: Sequence[str]


class Leaving:
    """A table and a recipe, made ready to leave segments out.

    Parameters
    ----------
    part : Table
        The samples and variables in the model, before treatment.
    recipe : Recipe
        Steps that are off are passed over; row-wise steps before the first that learns are done once.

    Raises
    ------
    InputError
        Segments cannot be made; a treatment fails; the model is made around gaps.
    """

    def __init__(self, part: Table, recipe: Recipe) -> None:
        if recipe.model.gaps in ("nipals", "em") and part.has_gaps:
            raise ModelError(
                "Held-out error is not defined for a model around gaps.",
                "Fill or leave out the gaps to validate.",
            )
        self.part, self.recipe = part, recipe
        steps = [step for step in recipe.treat if step.on]
        self._base, first = _before_learning(part, steps, recipe.model.gaps)
        self._steps = steps[first:]
        self.segments: Segments = make_segments(part, recipe.validate)
        self.whole = _treated_width(self._base, self._steps, recipe)
        self.scaling = recipe.scaling_for(self.whole.axis.ordered)

    @property
    def left(self) -> list[Integers]:
        """The rows of each segment, repeat by repeat."""
        return [rows for repeat in self.segments.parts for rows in repeat]

    @property
    def most(self) -> int:
        """The most components that every segment can have."""
        smallest = len(self.part.ids) - max(len(rows) for rows in self.left)
        return min(smallest - 1 if self.scaling.centre != "none" else smallest, self.whole.shape[1])

    def leave(self, rows: Integers, watch: Watch | None = None) -> LeftOut:
        """Leave some rows out and learn everything without them."""
        base = self._base
        kept = np.ones(len(base.ids), dtype=bool)
        kept[rows] = False
        rest = np.flatnonzero(kept)
        training, left = base.take(rest), base.take(rows)
        fill = fills(training.values, self.recipe.model.gaps) if base.has_gaps else None
        training, left = filled(training, fill), filled(left, fill)
        for step in self._steps:
            tell(watch, 0.0)
            done = run_step(training, step, watch)
            training, left = done.table, apply_step(left, step, done.learned)
        scaler = fit_scaler(training.values, self.recipe.scaling_for(training.axis.ordered), training.axis)
        ran = [step.method for step in self.recipe.treat if step.on]
        scaler = without(scaler, constant_after(self.part, training.axis, ran, rest))
        tell(watch, 0.0)
        seen = Scaled(training.values, scaler)
        return LeftOut(rows, rest, scaler, seen, scaler.apply(left.values), training.axis.labels)


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
