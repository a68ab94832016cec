"""Dead-time correction of a counting detector."""

from __future__ import annotations

from typing import Annotated

import numpy as np
from msgspec import Meta

from scutcher.core.data.table import Table
from scutcher.core.treatments.base import Learned, Parameters, Treatment
from scutcher.core.treatments.support.refusals import refuse_values
from scutcher.core.words import shown


class DeadTimeParameters(Parameters, frozen=True):
    """How long the detector is blind after a count, and how long it counted."""

    dead_time: Annotated[
        float,
        Meta(
            ge=0.0,
            le=1e6,
            description="blind time after each count",
            extra={"unit": "ns", "slider": (0, 1000)},
        ),
    ] = 50.0
    counting_time: Annotated[
        float,
        Meta(
            gt=0.0,
            description="time that each channel was counted",
            extra={"unit": "s", "slider": (0.001, 10), "log": True},
        ),
    ] = 1.0


def apply(table: Table, parameters: DeadTimeParameters, learned: Learned) -> Table:
    """True counts m / (1 − m·τ/t); gaps stay gaps."""
    share = parameters.dead_time * 1e-9 / parameters.counting_time
    alive = 1.0 - table.values * share
    refuse_values(
        table,
        ~(alive > 0.0) & ~np.isnan(table.values),
        "More counts than the dead time allows",
        "Check dead time and counting time; a saturated channel is to be left out.",
    )
    return table.with_values(table.values / alive)


TREATMENT = Treatment(
    key="dead-time",
    name="Dead-time correction",
    family="transform",
    purpose="gives back the counts that a counting detector missed",
    help="For a detector whose blind time is not prolonged by further events: m / (1 − m·τ/t).",
    source="Knoll, Radiation Detection and Measurement, Wiley (2010), ch. 4",
    parameters=DeadTimeParameters,
    apply=apply,
    short=lambda p: f"{shown(p.dead_time)} ns in {shown(p.counting_time)} s",
)
