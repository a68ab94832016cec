"""A model that can leave the house: all that is needed to treat, project and judge new samples."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import numpy as np

from scutcher.core.arrays import Floats
from scutcher.core.data.axis import Axis
from scutcher.core.data.interpolation import interpolator
from scutcher.core.data.table import Table
from scutcher.core.distances.held_out_limits import HeldOutLimits
from scutcher.core.distances.joint_distance import JointScale
from scutcher.core.distances.limits import Limit, t2_limit_new
from scutcher.core.errors import InputError, TableError
from scutcher.core.frozen import frozen
from scutcher.core.models.missing_values import filled
from scutcher.core.recipes.chain import apply_chain
from scutcher.core.recipes.recipe import Step
from scutcher.core.words import count_of, first_of, shown

NEAR = 1e-6  # of a channel's distance to its neighbour: positions that differ by less are the same
LEAST_KNOWN = 0.05
"""Smallest eigenvalue of `P_KᵀP_K` at which the known variables still fix the scores."""

NAMED = 3  # variables named in a message


@frozen(eq=False)
class SavedModel:
    """A model of k components, apart from its training samples.

    Attributes
    ----------
    axis : Axis
        The p₀ variables that go in.
    steps, learned : the treatments that ran, and what each learned
    fill : (p₀,) float array or None
        What gaps are filled with.
    treated_labels : tuple of p str
        The variables after treatment.
    centre, weight : (p,) float arrays
    loadings : (p, k) float array
    eigenvalues : (k,) float array
    samples : int
        n of the training set.
    level : float
    q_limit : Limit
    joint_scale : JointScale or None
    held_out : HeldOutLimits or None
        What was learned from left-out samples, where the model was validated.
    basis : "fitted" or "held-out"
        What limit of Q and joint scale were learned from.
    filled_with : str
        What `fill` is, "fill-mean" or "fill-median"; "" where gaps are not filled.
    """

    axis: Axis
    steps: tuple[Step, ...]
    learned: tuple[Any, ...]
    fill: Floats | None
    treated_labels: tuple[str, ...]
    centre: Floats
    weight: Floats
    loadings: Floats
    eigenvalues: Floats
    samples: int
    level: float
    q_limit: Limit
    joint_scale: JointScale | None
    held_out: HeldOutLimits | None = None
    basis: str = "fitted"
    filled_with: str = ""

    def judging(self, basis: str = "held-out") -> SavedModel:
        """The model with the limits that are asked for; with those of the fit where it has no others."""
        held = self.held_out
        if basis != "held-out" or held is None:
            return self
        return replace(self, q_limit=held.q_limit, joint_scale=held.scale, basis="held-out")

    @property
    def k(self) -> int:
        """How many components."""
        return len(self.eigenvalues)

    @property
    def t2_limit(self) -> Limit:
        """The T² limit for samples that the model has not seen."""
        return t2_limit_new(self.samples, self.k, self.level)

    @property
    def joint_limit(self) -> Limit | None:
        """The limit of the joint distance, learned from what the scale was learned from."""
        if self.basis == "held-out" and self.held_out is not None:
            return self.held_out.joint_limit
        return None if self.joint_scale is None else self.joint_scale.limit(self.level)


@frozen(eq=False)
class Projected:
    """New samples on a model.

    Attributes
    ----------
    table : Table
        Those that could be projected, treated; m of them.
    rows : (m,) int array
        Their places in the table that was given.
    z : (m, p) float array
        Centred and scaled as the training set was; gaps stay gaps.
    scores, t2, q, joint
        (m, k), (m,), (m,), (m,) or None. Q of a sample with gaps is over its known variables.
    gaps : (m,) int array
        Gaps of each after treatment.
    filled : (m,) int array
        Gaps of each that were filled before it.
    refused : dict of row → reason
    notes : tuple of str
        What did not match and did not matter.
    """

    table: Table
    rows: np.ndarray
    z: Floats
    scores: Floats
    t2: Floats
    q: Floats
    joint: Floats | None
    gaps: np.ndarray
    filled: np.ndarray
    refused: dict[int, str]
    notes: tuple[str, ...]


def project(model: SavedModel, table: Table, resample: bool = False) -> Projected:
    """Treat new samples as the training set was treated, project them and measure their distances.

    Parameters
    ----------
    table : Table
        New samples; set-aside ones are passed over.
    resample : bool
        Whether a different ordered axis is read onto the model's, by monotone cubic interpolation.

    Raises
    ------
    TableError
        Variables of the model are missing; the first are named.

    References
    ----------
    Nelson, Taylor & MacGregor, Chemometr. Intell. Lab. Syst. 35 (1996) 45–65 (projection with gaps).
    """
    matched, notes = on_axis_of(model.axis, table, resample)
    holes = matched.gaps().sum(axis=1) if matched.has_gaps and model.fill is not None else None
    matched = filled(matched, model.fill)
    rows, refused = table.used_rows(), {}
    if matched.has_gaps and any("no-gaps" in step.treatment.needs for step in model.steps if step.on):
        with_gaps = np.isnan(matched.values[rows].sum(axis=1))
        refused = {int(row): "gaps, and the treatments need complete spectra" for row in rows[with_gaps]}
        rows = rows[~with_gaps]
    rows, treated, more = _treated(model, matched, rows)
    refused |= more
    if treated.axis.labels != model.treated_labels:
        raise TableError(
            f"After treatment there are {len(treated.axis)} variables, the model has "
            f"{len(model.treated_labels)}.",
            "The new samples are not of the kind that the model was made from.",
        )
    z = (treated.values - model.centre) * model.weight
    scores, q, undetermined = _scores(model, z)
    kept = np.flatnonzero(~undetermined)
    refused |= {
        int(rows[place]): "too many gaps: its scores are not fixed" for place in np.flatnonzero(undetermined)
    }
    rows, treated, z, scores, q = rows[kept], treated.take(kept), z[kept], scores[kept], q[kept]
    t2 = (scores**2 / model.eigenvalues).sum(axis=1)
    filled_in = np.zeros(len(rows), np.intp) if holes is None else holes[rows]
    notes = (*notes, *_of_filling(model, treated, filled_in))
    joint = None
    if model.joint_scale is not None:
        joint = model.joint_scale.distance(t2 / (model.samples - 1) + 1.0 / model.samples, q)
    gaps = np.isnan(z).sum(axis=1)
    return Projected(treated, rows, z, scores, t2, q, joint, gaps, filled_in, refused, notes)


def _of_filling(model: SavedModel, treated: Table, filled_in: np.ndarray) -> tuple[str, ...]:
    """What was filled, in words."""
    places = np.flatnonzero(filled_in)
    if not len(places):
        return ()
    names = first_of([treated.ids[place] for place in places.tolist()])
    what = {"fill-mean": "means", "fill-median": "medians"}.get(model.filled_with, "values")
    count = count_of(int(filled_in.sum()), "gap")
    return (f"{count} in {count_of(len(places))} ({names}), filled with the training {what}.",)


def _treated(model: SavedModel, matched: Table, rows: np.ndarray) -> tuple[np.ndarray, Table, dict[int, str]]:
    """All at once; where a treatment refuses, one by one, so that one bad sample does not stop the rest."""
    try:
        return rows, apply_chain(matched.take(rows), model.steps, model.learned), {}
    except InputError:
        good, refused = [], {}
        for row in rows:
            try:
                apply_chain(matched.take(np.array([row])), model.steps, model.learned)
                good.append(int(row))
            except InputError as error:
                refused[int(row)] = error.problem
        if not good:
            raise
        kept = np.array(good, dtype=np.intp)
        return kept, apply_chain(matched.take(kept), model.steps, model.learned), refused


def _scores(model: SavedModel, z: Floats) -> tuple[Floats, Floats, np.ndarray]:
    """Scores and Q of each row; rows with gaps by least squares over what is known."""
    loadings = model.loadings
    scores = np.nan_to_num(z) @ loadings
    undetermined = np.zeros(len(z), dtype=bool)
    for row in np.flatnonzero(np.isnan(z).any(axis=1)):
        known = ~np.isnan(z[row])
        seen = loadings[known]
        inner = seen.T @ seen
        if np.linalg.eigvalsh(inner)[0] < LEAST_KNOWN:
            undetermined[row] = True
        else:
            scores[row] = np.linalg.solve(inner, seen.T @ z[row, known])
    away = np.nan_to_num(z - scores @ loadings.T)
    return scores, np.einsum("ij,ij->i", away, away), undetermined


def on_axis_of(axis: Axis, table: Table, resample: bool) -> tuple[Table, tuple[str, ...]]:
    """The new samples over the model's variables, in its order, and what else they had.

    Raises
    ------
    TableError
        Variables are missing, or lie beyond what was measured.
    """
    if axis.ordered != table.axis.ordered:
        kinds = {True: "an ordered axis", False: "mixed variables"}
        raise TableError(
            f"The model is over {kinds[axis.ordered]}, {table.name} over {kinds[table.axis.ordered]}.",
            "Bring in data of the same kind.",
        )
    if axis.unit and table.axis.unit and axis.unit != table.axis.unit:
        raise TableError(
            f"The model's axis is in {axis.unit}, that of {table.name} in {table.axis.unit}.",
            "Convert the axis first.",
        )
    places = places_on(axis, table.axis)
    missing = np.flatnonzero(places < 0)
    if not missing.size:
        extra = table.shape[1] - len(set(places.tolist()))
        notes = (f"{extra} variables that the model does not know were passed over.",) if extra else ()
        values = np.ascontiguousarray(table.values[:, places])
        return replace(table, values=values, axis=axis, left_out={}), notes
    if resample and axis.ordered:
        return _resampled(axis, table), (f"Read onto the model's {len(axis)} channels by interpolation.",)
    names = ", ".join(axis.name(int(place)) for place in missing[:NAMED])
    more = f" and {len(missing) - NAMED} more" if len(missing) > NAMED else ""
    remedy = "Bring in data with these variables."
    if axis.ordered:
        remedy = "They can be resampled onto the model's axis."
    raise TableError(
        f"{table.name} lacks {len(missing)} of the model's {len(axis)} variables: {names}{more}.", remedy
    )


def places_on(axis: Axis, other: Axis) -> np.ndarray:
    """Where each variable of one axis stands on another; −1 where it is not there."""
    if not axis.ordered:
        where = {label: place for place, label in enumerate(other.labels)}
        return np.array([where.get(label, -1) for label in axis.labels], dtype=np.intp)
    wanted, there = axis.places(), other.places()
    order = np.argsort(there)
    near = np.clip(np.searchsorted(there[order], wanted), 1, max(len(there) - 1, 1))
    left, right = order[near - 1], order[np.minimum(near, len(there) - 1)]
    nearest = np.where(np.abs(there[left] - wanted) <= np.abs(there[right] - wanted), left, right)
    step = float(np.abs(np.diff(wanted)).min()) if len(wanted) > 1 else 1.0
    found: np.ndarray = np.where(np.abs(there[nearest] - wanted) <= NEAR * step, nearest, -1)
    return found


def _resampled(axis: Axis, table: Table) -> Table:
    wanted, there = axis.places(), table.axis.places()
    if wanted.min() < there.min() or wanted.max() > there.max():
        raise TableError(
            f"The model's axis runs from {shown(wanted.min())} to {shown(wanted.max())} {axis.unit}".rstrip()
            + f", {table.name} from {shown(there.min())} to {shown(there.max())}; nothing is extrapolated.",
            "Measure the whole range, or make a model over the common part.",
        )
    values = interpolator("monotone-cubic", there, table.values)(wanted)
    return replace(table, values=np.ascontiguousarray(values), axis=axis, left_out={})
