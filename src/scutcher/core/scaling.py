"""Centre and scale the variables: what is learned from the training set, and how it is applied."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

import numpy as np

from scutcher.core.arrays import Booleans, Floats, Integers, constant_columns
from scutcher.core.axis import Axis
from scutcher.core.errors import TableError
from scutcher.core.recipe import ScaleSettings

NORMAL_CONSISTENT_MAD = 1.4826


@dataclass(frozen=True, eq=False)
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

    def apply(self, values: Floats) -> Floats:
        """Scale rows, (m, p) → (m, p); the input is not changed."""
        scaled = values - self.centre
        scaled *= self.weight
        return scaled


def fit_scaler(values: Floats, settings: ScaleSettings, axis: Axis) -> Scaler:
    """Learn centre and weight of each variable.

    Parameters
    ----------
    values : (n, p) float array
        The treated training set, finite.
    settings : ScaleSettings
        Standard deviations have divisor n − 1; Pareto divides by the square root of the standard
        deviation; range by maximum − minimum; level by the mean; MAD by 1.4826 × the median absolute
        deviation; sqrt-mean by the square root of the mean (counting noise).
    axis : Axis
        Names the variables in messages.

    Raises
    ------
    TableError
        A divisor that is not positive (level, sqrt-mean, or a MAD of a variable that does vary).

    References
    ----------
    van den Berg et al., BMC Genomics 7 (2006) 142; Keenan & Kotula, Surf. Interface Anal. 36 (2004)
    203–212 (square root of the mean).
    """
    if settings.centre == "mean":
        centre = values.mean(axis=0)
    elif settings.centre == "median":
        centre = np.median(values, axis=0)
    else:
        centre = np.zeros(values.shape[1])
    constant = constant_columns(values)
    divisor: Floats = DIVISORS[settings.method](values)
    _check_divisors(divisor, constant, settings.method, axis)
    weight = np.zeros_like(divisor)
    np.divide(1.0, divisor, out=weight, where=~constant)
    return Scaler(centre, weight, np.flatnonzero(constant), settings.centre != "none")


def _mad(values: Floats) -> Floats:
    spread: Floats = NORMAL_CONSISTENT_MAD * np.median(np.abs(values - np.median(values, axis=0)), axis=0)
    return spread


def _sqrt_mean(values: Floats) -> Floats:
    means = values.mean(axis=0)
    root: Floats = np.sqrt(means, where=means > 0, out=np.minimum(means, 0.0))
    return root


DIVISORS: dict[str, Callable[[Floats], Any]] = {
    "none": lambda values: np.ones(values.shape[1]),
    "sd": lambda values: values.std(axis=0, ddof=1),
    "pareto": lambda values: np.sqrt(values.std(axis=0, ddof=1)),
    "range": lambda values: np.ptp(values, axis=0),
    "level": lambda values: values.mean(axis=0),
    "mad": _mad,
    "sqrt-mean": _sqrt_mean,
}


def _check_divisors(divisor: Floats, constant: Booleans, method: str, axis: Axis) -> None:
    wrong = np.flatnonzero((divisor <= 0.0) & ~constant)
    if wrong.size:
        column = int(wrong[0])
        raise TableError(
            f"Scaling by {method}: the divisor of {axis.name(column)} is {divisor[column]:.4g}, "
            "it must be positive.",
            "Choose another scaling or leave the variable out.",
        )
