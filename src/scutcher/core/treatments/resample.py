"""Spectra read onto an even axis between two positions."""

from __future__ import annotations

from dataclasses import replace
from typing import Annotated, Literal

import numpy as np
from msgspec import Meta

from scutcher.core.arrays import Floats
from scutcher.core.data.axis import Axis, headers_of
from scutcher.core.data.interpolation import interpolator
from scutcher.core.data.table import Table
from scutcher.core.errors import RecipeError
from scutcher.core.treatments.base import Learned, Parameters, Treatment
from scutcher.core.words import shown


class ResampleParameters(Parameters, frozen=True):
    """The new axis, and how it is read."""

    start: Annotated[
        float, Meta(description="first position; with stop 0 too: as now", extra={"unit": "axis"})
    ] = 0.0
    stop: Annotated[
        float, Meta(description="last position; with start 0 too: as now", extra={"unit": "axis"})
    ] = 0.0
    step: Annotated[
        float,
        Meta(ge=0.0, description="distance of channels; 0: as many channels as now", extra={"unit": "axis"}),
    ] = 0.0
    kind: Annotated[
        Literal["linear", "monotone-cubic", "spline"], Meta(description="how it is read between channels")
    ] = "monotone-cubic"


MOST_CHANNELS, MOST_TIMES = 10_000, 4
"""Channels that come out: at most so many, or so many times those that went in."""

MOST_VALUES = 100_000_000
"""That come out, unless so many went in."""


def even_axis(places: Floats, parameters: ResampleParameters) -> Floats:
    """The new positions, in the direction from start to stop.

    Raises
    ------
    RecipeError
        They go beyond what was measured, there are fewer than two, or far more than were measured.
    """
    start, step, count = _even(places, parameters)
    found: Floats = np.clip(start + step * np.arange(count), places.min(), places.max())
    return found


def _even(places: Floats, parameters: ResampleParameters) -> tuple[float, float, int]:
    """First position, step with its sign, and number of channels."""
    start, stop = parameters.start, parameters.stop
    if start == stop == 0.0:
        start, stop = float(places[0]), float(places[-1])
    low, high = float(places.min()), float(places.max())
    reach = 1e-9 * (high - low)
    if min(start, stop) < low - reach or max(start, stop) > high + reach:
        raise RecipeError(
            f"The new axis runs from {shown(start)} to {shown(stop)}; measured is {shown(low)} to "
            f"{shown(high)}, and nothing is "
            "extrapolated.",
            f"Stay within {shown(low)} to {shown(high)}.",
        )
    step = parameters.step or abs(stop - start) / max(len(places) - 1, 1)
    most = max(MOST_CHANNELS, MOST_TIMES * len(places))
    if abs(stop - start) > most * step > 0.0:
        raise RecipeError(
            f"Channels every {shown(step)} are more than {most:,}; {len(places):,} were measured.",
            f"Choose a step of at least {shown(float(f'{1.05 * abs(stop - start) / most:.2g}'))}.",
        )
    count = int(np.floor(abs(stop - start) / step + 1e-9)) + 1 if step > 0.0 else 1
    if count < 2:
        raise RecipeError(
            "The new axis has fewer than two channels.", "Choose a smaller step or a wider range."
        )
    return start, float(np.sign(stop - start)) * step, count


def apply(table: Table, parameters: ResampleParameters, learned: Learned) -> Table:
    """Treat a table."""
    places = table.axis.places()
    onto = even_axis(places, parameters)
    if len(table.ids) * len(onto) > max(MOST_VALUES, table.values.size):
        raise RecipeError(
            f"{len(table.ids):,} samples of {len(onto):,} channels are more than {MOST_VALUES:,} values.",
            "Choose a larger step.",
        )
    values = interpolator(parameters.kind, places, table.values)(onto)
    axis = Axis(headers_of(onto), onto, table.axis.quantity, table.axis.unit)
    return replace(table, values=np.ascontiguousarray(values), axis=axis)


TREATMENT = Treatment(
    key="resample",
    name="Resample",
    family="align",
    purpose="brings channels onto an even axis, or onto another instrument's",
    help="Read between the channels, never beyond them. Monotone cubic does not overshoot; a spline is "
    "smoother and may.",
    source="Fritsch & Carlson, SIAM J. Numer. Anal. 17 (1980) 238–246",
    parameters=ResampleParameters,
    apply=apply,
    needs=("ordered", "no-gaps"),
    short=lambda p: p.kind.replace("-", " ") + (f", every {shown(p.step)}" if p.step else ""),
    cost=700.0,
    channels=lambda axis, parameters: _even(axis.places(), parameters)[2],
)
