"""Counting noise made even: each value divided by the root of its sample's mean and of its channel's mean."""

from __future__ import annotations

import numpy as np

from scutcher.core.arrays import Floats
from scutcher.core.data.table import Table
from scutcher.core.treatments.base import Inside, Learned, Parameters, Treatment
from scutcher.core.treatments.support.normalising import divided


class CountingNoiseParameters(Parameters, frozen=True):
    """There is nothing to set."""


def fit(table: Table, parameters: CountingNoiseParameters) -> dict[str, Floats]:
    """The mean of each channel over the set."""
    return {"mean": table.values.mean(axis=0)}


def apply(table: Table, parameters: CountingNoiseParameters, learned: Learned) -> Table:
    """Treat a table; a channel whose mean is not positive becomes zero.

    `x_ij / √(a_i·b_j)`, a the mean of sample i, b that of channel j over the set: counts of Poisson's kind
    then have one variance everywhere.
    """
    assert learned is not None
    means = learned["mean"]
    weight = np.zeros(len(means))
    np.divide(1.0, np.sqrt(np.maximum(means, 0.0)), out=weight, where=means > 0.0)
    size = np.sqrt(np.maximum(table.values.mean(axis=1), 0.0))
    treated = divided(table, size, "The root of the mean", "counting noise 1")
    return treated.with_values(treated.values * weight)


def show(table: Table, after: Table, parameters: CountingNoiseParameters, learned: Learned) -> Inside:
    """The mean spectrum that the channels are weighted by, and the mean of each sample."""
    assert learned is not None
    return Inside(reference=learned["mean"], per_sample=table.values.mean(axis=1), per_sample_name="mean")


TREATMENT = Treatment(
    key="counting-noise",
    name="Counting noise",
    family="transform",
    purpose="makes the noise of counts even: a model then does not follow the strongest channels",
    help="Each count is divided by the root of its sample's mean and of its channel's mean. For counts as "
    "they were measured (dead time corrected first); leave centring and scaling off after it.",
    source="Keenan & Kotula, Surf. Interface Anal. 36 (2004) 203–212",
    parameters=CountingNoiseParameters,
    apply=apply,
    fit=fit,
    of_mean=lambda parameters: True,
    needs=("no-gaps",),
    inside=show,
)
