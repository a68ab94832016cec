"""Moving median along the axis: takes out spikes."""

from __future__ import annotations

from typing import Annotated

import numpy as np
from msgspec import Meta

from scutcher.core.data.table import Table
from scutcher.core.treatments.base import Learned, Parameters, Treatment
from scutcher.core.treatments.support.windows import check_window


class MedianFilterParameters(Parameters, frozen=True):
    """Width of the window."""

    window: Annotated[
        int,
        Meta(
            ge=3,
            le=999,
            description="channels in the window, odd",
            extra={"unit": "channels", "slider": (3, 31)},
        ),
    ] = 5


def apply(table: Table, parameters: MedianFilterParameters, learned: Learned) -> Table:
    """Treat a table; at the ends the outermost value is repeated."""
    from scipy.ndimage import median_filter

    window, p = parameters.window, table.shape[1]
    check_window(window, p)
    if window * p < 1000 + 6 * p:  # of narrow windows or few channels all samples in one call
        values = median_filter(table.values, size=(1, window), mode="nearest")
    else:  # a signal by itself is as fast with a wide window
        values = np.array([median_filter(signal, size=window, mode="nearest") for signal in table.values])
    return table.with_values(values, signal=f"{table.signal}, median")


TREATMENT = Treatment(
    key="median-filter",
    name="Moving median",
    family="smoothing",
    purpose="removes spikes narrower than half the window",
    help="Each channel becomes the median of the window around it: a spike vanishes, an edge stays.",
    source="Tukey, Exploratory Data Analysis, Addison-Wesley (1977), ch. 7",
    parameters=MedianFilterParameters,
    apply=apply,
    needs=("ordered", "no-gaps"),
    short=lambda parameters: f"{parameters.window} channels",
    slow=True,
    cost=270.0,
)
