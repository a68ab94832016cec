"""Alignment: each spectrum shifted so that a reference peak stands where it should."""

from __future__ import annotations

from typing import Annotated

import numpy as np
from msgspec import Meta

from scutcher.core.arrays import Booleans, Floats
from scutcher.core.data.table import Table
from scutcher.core.errors import RecipeError, TableError
from scutcher.core.numeric.peak_fit import PeakFit, fit_peaks
from scutcher.core.treatments.base import Inside, Learned, Parameters, Treatment
from scutcher.core.treatments.support.requirements import spacing
from scutcher.core.treatments.support.shifting import MostShift, check_room, moved
from scutcher.core.words import shown

LEAST = 7  # channels that the fit of five parameters needs


class ShiftToPeakParameters(Parameters, frozen=True):
    """Where the peak should be, how far around it is looked, how far a spectrum may move."""

    position: Annotated[float, Meta(description="where the peak belongs", extra={"unit": "axis"})] = 0.0
    half_width: Annotated[
        float,
        Meta(gt=0.0, description="the fit's window reaches so far to both sides", extra={"unit": "axis"}),
    ] = 10.0
    most: MostShift = 5


def window(table: Table, parameters: ShiftToPeakParameters) -> Booleans:
    """The channels that the peak is fitted over, (p,).

    Raises
    ------
    RecipeError
        Too few of them.
    """
    places = table.axis.places()
    within: Booleans = np.abs(places - parameters.position) <= parameters.half_width
    if within.sum() < LEAST:
        raise RecipeError(
            f"{int(within.sum())} channels lie within {shown(parameters.half_width)} of "
            f"{shown(parameters.position)}; "
            f"the peak's fit needs {LEAST}, and the axis runs from {shown(places.min())} to "
            f"{shown(places.max())}.",
            "Choose the position of the reference peak, or a wider window.",
        )
    return within


def reference_peaks(table: Table, parameters: ShiftToPeakParameters) -> PeakFit:
    """The reference peak as fitted in each spectrum."""
    within = window(table, parameters)
    return fit_peaks(table.axis.places()[within], table.values[:, within])


def shifts_of(table: Table, parameters: ShiftToPeakParameters) -> Floats:
    """How far each peak stands from where it belongs, (n,), in channels towards higher channel numbers.

    Raises
    ------
    TableError
        No peak was found in a spectrum, or it is too far away; the sample is named.
    """
    found = reference_peaks(table, parameters)
    lost = np.flatnonzero(~found.found)
    if lost.size:
        raise TableError(
            f"No peak was found near {shown(parameters.position)} {table.axis.unit} in sample "
            f"{table.ids[int(lost[0])]}.",
            "Choose another reference peak, or set the sample aside.",
        )
    shifts: Floats = (found.centre - parameters.position) / spacing(table)
    far = np.flatnonzero(np.abs(shifts) > parameters.most)
    if far.size:
        row = int(far[0])
        raise TableError(
            f"The reference peak of sample {table.ids[row]} is {shown(shifts[row], '+.1f')} channels away; "
            f"{parameters.most} are allowed.",
            "Allow a larger shift, or set the sample aside.",
        )
    return shifts


def apply(table: Table, parameters: ShiftToPeakParameters, learned: Learned) -> Table:
    """Treat a table."""
    check_room(table, parameters.most)
    return moved(table, shifts_of(table, parameters), parameters.most)


def suggest(table: Table) -> ShiftToPeakParameters:
    """The sharpest maximum of the mean spectrum: where its second difference is lowest."""
    places, mean = table.axis.places(), np.nanmean(table.values, axis=0)
    channels = len(places)
    most = max(1, min(5, channels // 20))
    margin = min(max(2 * most, 4), (channels - 1) // 2)
    reach = max(1, channels // 100)
    bent = mean[: -2 * reach] - 2.0 * mean[reach:-reach] + mean[2 * reach :]
    inner = np.arange(reach, channels - reach)
    inner_kept = (inner >= margin) & (inner < channels - margin)
    top = int(inner[inner_kept][bent[inner_kept].argmin()])
    step = abs(float(places[-1] - places[0])) / (channels - 1)
    width = max(LEAST, min(channels // 25, 40)) * step
    return ShiftToPeakParameters(
        position=float(f"{places[top]:.6g}"), half_width=float(f"{width:.3g}"), most=most
    )


TREATMENT = Treatment(
    key="shift-to-peak",
    name="Shift to a reference peak",
    family="align",
    purpose="aligns spectra that are shifted along the axis, by one sharp peak",
    help="A bell on a straight line is fitted to the peak; the whole spectrum moves by what it is off. The "
    "outermost channels are dropped, so that nothing is made up at the ends.",
    source="Marquardt, J. Soc. Ind. Appl. Math. 11 (1963) 431–441, for the fit of the peak",
    parameters=ShiftToPeakParameters,
    apply=apply,
    needs=("ordered", "even", "no-gaps"),
    short=lambda p: f"{shown(p.position)} ± {shown(p.half_width)}",
    inside=lambda table, after, parameters, learned: Inside(
        per_sample=shifts_of(table, parameters), per_sample_name="shift / channels"
    ),
    slow=True,
    suggest=suggest,
    cost=2900.0,
)
