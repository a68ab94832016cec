"""Gaussian smoothing along the axis."""

from __future__ import annotations

from typing import Annotated

import numpy as np
from msgspec import Meta

from scutcher.core.arrays import Floats
from scutcher.core.data.table import Table
from scutcher.core.treatments.base import Learned, Parameters, Treatment
from scutcher.core.treatments.support.windows import weighted_window
from scutcher.core.words import shown


class GaussianSmoothParameters(Parameters, frozen=True):
    """Width of the bell."""

    sd: Annotated[
        float,
        Meta(
            gt=0.0,
            le=200.0,
            description="standard deviation of the bell",
            extra={"unit": "channels", "slider": (0.5, 20)},
        ),
    ] = 2.0


def gaussian_weights(sd: float) -> Floats:
    """A bell cut at four standard deviations, summing to one. Shape (2·⌈4 sd⌉ + 1,)."""
    half = int(np.ceil(4.0 * sd))
    bell = np.exp(-0.5 * (np.arange(-half, half + 1) / sd) ** 2)
    weights: Floats = bell / bell.sum()
    return weights


def apply(table: Table, parameters: GaussianSmoothParameters, learned: Learned) -> Table:
    """Treat a table; at the ends the bell is over the channels there are, its weights summing to one."""
    values = weighted_window(table.values, gaussian_weights(parameters.sd))
    return table.with_values(values, signal=f"{table.signal}, smoothed")


TREATMENT = Treatment(
    key="gaussian-smooth",
    name="Gaussian smoothing",
    family="smoothing",
    purpose="smooths noise; lowers and widens narrow bands",
    help="Each channel becomes the mean of its neighbours, weighted by a bell. At the ends the weights of "
    "the channels there are sum to one.",
    source="Davies, Machine Vision, Academic Press (1990), ch. 3",
    parameters=GaussianSmoothParameters,
    apply=apply,
    needs=("ordered", "even", "no-gaps"),
    short=lambda parameters: f"SD {shown(parameters.sd)} channels",
    cost=90.0,
)
