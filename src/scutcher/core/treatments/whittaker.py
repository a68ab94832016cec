"""Whittaker smoothing: fidelity to the data against roughness."""

from __future__ import annotations

from typing import Annotated

import numpy as np
from msgspec import Meta

from scutcher.core.data.table import Table
from scutcher.core.numeric.banded_systems import whittaker_fit
from scutcher.core.treatments.base import Learned, Parameters, Treatment
from scutcher.core.words import shown


class WhittakerParameters(Parameters, frozen=True):
    """How smooth."""

    smoothness: Annotated[
        float,
        Meta(
            gt=0.0,
            le=1e12,
            description="weight of roughness against fidelity",
            extra={"slider": (0.1, 1e6), "log": True},
        ),
    ] = 10.0


def apply(table: Table, parameters: WhittakerParameters, learned: Learned) -> Table:
    """Treat a table."""
    values = whittaker_fit(table.values, np.ones(table.shape), parameters.smoothness)
    return table.with_values(values, signal=f"{table.signal}, smoothed")


TREATMENT = Treatment(
    key="whittaker",
    name="Whittaker smoother",
    family="smoothing",
    purpose="smooths noise right up to the ends of the axis",
    help="Minimises the squared distance to the data plus the smoothness times the squared second "
    "differences. Ten times the value smooths a little less than twice as wide.",
    source="Eilers, Anal. Chem. 75 (2003) 3631–3636",
    parameters=WhittakerParameters,
    apply=apply,
    needs=("ordered", "even", "no-gaps"),
    short=lambda parameters: f"smoothness {shown(parameters.smoothness)}",
    slow=True,
    cost=540.0,
)
