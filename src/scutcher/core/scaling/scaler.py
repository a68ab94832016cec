"""Centre and scale the variables: what is learned from the training set, and how it is applied."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from typing import Any

import numpy as np

from scutcher.core.arrays import Booleans, Floats, Integers, constant_columns, value_span
from scutcher.core.computed_once import computed_once
from scutcher.core.data.axis import Axis
from scutcher.core.data.table import LARGEST, SMALLEST
from scutcher.core.errors import TableError
from scutcher.core.frozen import frozen
from scutcher.core.known_names import nearest
from scutcher.core.numeric.recycled import recycled
from scutcher.core.numeric.threads import in_parts, sums
from scutcher.core.recipes.recipe import ScaleSettings
from scutcher.core.words import shown

NORMAL_CONSISTENT_MAD = 1.4826

Moment = Callable[..., Any]
"""A mean, median or standard deviation over an axis."""


@frozen(eq=False)
class Scaler:
    """What centring and scaling learned: `z = (x − centre) · weight`.

    Attributes
    ----------
    centre : (p,) float array
        Zeros where nothing is taken off.
    weight : (p,) float array
        One over the divisor; 0 for constant variables.
    constant : (c,) int array
        The columns that do not vary over the training set.
    centred : bool
        Whether the model's degrees of freedom are n − 1.
    """

    centre: Floats
    weight: Floats
    constant: Integers
    centred: bool

    @computed_once
    def weighted(self) -> bool:
        """Whether it does more than centre."""
        return not bool((self.weight == 1.0).all())

    def apply(self, values: Floats) -> Floats:
        """Scale rows, (m, p) → (m, p); the input is not changed."""
        scaled = recycled(values.shape)

        def part(rows: slice, own: None) -> None:
            np.subtract(values[rows], self.centre, out=scaled[rows])
            if self.weighted:
                scaled[rows] *= self.weight

        n, p = values.shape
        in_parts(part, (n, p), lambda: None)
        return scaled


def without(scaler: Scaler, columns: Integers) -> Scaler:
    """The scaler with weight 0 for some columns more: the model does not see them."""
    if not len(columns):
        return scaler
    weight = scaler.weight.copy()
    weight[columns] = 0.0
    return replace(scaler, weight=weight, constant=np.union1d(scaler.constant, columns))


def fit_scaler(values: Floats, settings: ScaleSettings, axis: Axis, gaps: bool | None = None) -> Scaler:
    """Learn centre and weight of each variable.

    Parameters
    ----------
    values : (n, p) float array
        The treated training set; gaps (NaN) are passed over.
    settings : ScaleSettings
        Standard deviations have divisor n − 1; Pareto divides by the square root of the standard
        deviation; range by maximum − minimum; level by the mean; MAD by 1.4826 × the median absolute
        deviation; sqrt-mean by the square root of the mean (counting noise).
    axis : Axis
        Names the variables in messages.
    gaps : bool, optional
        Whether there are any, where that is known.

    Raises
    ------
    TableError
        A divisor that is not positive (level, sqrt-mean, or a MAD of a variable that does vary).

    References
    ----------
    van den Berg et al., BMC Genomics 7 (2006) 142; Keenan & Kotula, Surf. Interface Anal. 36 (2004)
    203–212 (square root of the mean).
    """
    gaps = not np.isfinite(values.sum()) if gaps is None else gaps
    mean, median, spread = MOMENTS[gaps]
    if settings.centre == "mean":
        centre = mean(values, axis=0)
    elif settings.centre == "median":
        centre = median(values, axis=0)
    else:
        centre = np.zeros(values.shape[1])
    constant = constant_columns(values)
    divisor: Floats = DIVISORS[settings.method](values, mean, median, spread)
    _check_divisors(divisor, constant, settings.method, axis)
    weight = np.zeros(values.shape[1])
    np.divide(1.0, divisor, out=weight, where=~constant)
    weight = _own_weights(weight, values, settings, axis, spread)
    weight[constant] = 0.0
    return Scaler(centre, weight, np.flatnonzero(constant), settings.centre != "none")


def _own_weights(
    weight: Floats, values: Floats, settings: ScaleSettings, axis: Axis, spread: Moment
) -> Floats:
    """Scaling switched off for some variables, weights of one's own, weights of blocks."""
    for label in settings.off:
        weight[_place(axis, label)] = 1.0
    for label, factor in settings.weights:
        weight[_place(axis, label)] *= factor
    for block in settings.blocks:
        places = [_place(axis, label) for label in block.variables]
        total = float(np.sum((spread(values[:, places], axis=0, ddof=1) * weight[places]) ** 2))
        equal = 1.0 / float(np.sqrt(total)) if total > 0.0 else 0.0
        weight[places] *= equal if block.weight is None else block.weight
    return weight


def _place(axis: Axis, label: str) -> int:
    """Where a variable stands.

    Raises
    ------
    TableError
        There is none of that name; the nearest is named.
    """
    if label not in axis.labels:
        near = nearest(label, axis.labels)
        raise TableError(
            f"Scaling: there is no variable {label!r} after treatment.",
            f"The nearest is {near!r}." if near else "Take it out of the recipe.",
        )
    return axis.labels.index(label)


def _mad(values: Floats, mean: Moment, median: Moment, spread: Moment) -> Floats:
    found: Floats = NORMAL_CONSISTENT_MAD * median(np.abs(values - median(values, axis=0)), axis=0)
    return found


def _sqrt_mean(values: Floats, mean: Moment, median: Moment, spread: Moment) -> Floats:
    means = mean(values, axis=0)
    root: Floats = np.sqrt(means, where=means > 0, out=np.minimum(means, 0.0))
    return root


def _mean(values: Floats, axis: int) -> Floats:
    """Mean of each column, (n, p) → (p,)."""
    return sums(values, axis) / len(values)


MOMENTS: dict[bool, tuple[Moment, Moment, Moment]] = {
    False: (_mean, np.median, np.std),
    True: (np.nanmean, np.nanmedian, np.nanstd),
}
"""Mean, median and standard deviation of a table without gaps, and of one with."""

DIVISORS: dict[str, Callable[[Floats, Moment, Moment, Moment], Any]] = {
    "none": lambda values, mean, median, spread: np.ones(values.shape[1]),
    "sd": lambda values, mean, median, spread: spread(values, axis=0, ddof=1),
    "pareto": lambda values, mean, median, spread: np.sqrt(spread(values, axis=0, ddof=1)),
    "range": lambda values, mean, median, spread: np.subtract(*value_span(values)[::-1]),
    "level": lambda values, mean, median, spread: mean(values, axis=0),
    "mad": _mad,
    "sqrt-mean": _sqrt_mean,
}


def _check_divisors(divisor: Floats, constant: Booleans, method: str, axis: Axis) -> None:
    sized = (divisor < LARGEST) & (np.abs(divisor) > SMALLEST) | constant
    far = np.flatnonzero(~sized & ((divisor != 0.0) | (method == "sd")))
    if far.size:
        raise TableError(
            f"The values of {axis.name(int(far[0]))} are too far from 1 to be scaled by {method}.",
            "Give it in another unit or leave the variable out.",
        )
    wrong = np.flatnonzero((divisor <= 0.0) & ~constant)
    if wrong.size:
        column = int(wrong[0])
        raise TableError(
            f"Scaling by {method}: the divisor of {axis.name(column)} is {shown(divisor[column], '.4g')}, "
            "it must be positive.",
            "Choose another scaling or leave the variable out.",
        )
