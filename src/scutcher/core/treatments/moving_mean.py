"""Moving mean along the axis."""

from __future__ import annotations

from typing import Annotated

import numpy as np
from msgspec import Meta

from scutcher.core.data.table import Table
from scutcher.core.treatments.base import Learned, Parameters, Treatment
from scutcher.core.treatments.support.windows import check_window, weighted_window


class MovingMeanParameters(Parameters, frozen=True):
    """Width of the window."""

    window: Annotated[
        int,
        Meta(
            ge=3,
            le=999,
            description="channels in the window, odd",
            extra={"unit": "channels", "slider": (3, 61)},
        ),
    ] = 5


def apply(table: Table, parameters: MovingMeanParameters, learned: Learned) -> Table:
    """Treat a table; at the ends the mean is over the channels there are."""
    check_window(parameters.window, table.shape[1])
    weights = np.full(parameters.window, 1.0 / parameters.window)
    return table.with_values(weighted_window(table.values, weights), signal=f"{table.signal}, smoothed")


TREATMENT = Treatment(
    key="moving-mean",
    name="Moving mean",
    family="smoothing",
    purpose="smooths noise in the simplest way; lowers and widens narrow bands",
    help="Each channel becomes the plain mean of the window around it; Savitzky–Golay keeps bands better.",
    source="Savitzky & Golay, Anal. Chem. 36 (1964) 1627–1639, on the moving average",
    parameters=MovingMeanParameters,
    apply=apply,
    needs=("ordered", "even", "no-gaps"),
    short=lambda parameters: f"{parameters.window} channels",
)
