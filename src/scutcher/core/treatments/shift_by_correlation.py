"""Alignment: each spectrum, or parts of it, shifted to where it correlates best with a reference."""

from __future__ import annotations

from dataclasses import replace
from typing import Annotated

import numpy as np
from msgspec import Meta

from scutcher.core.arrays import Floats, Integers
from scutcher.core.data.interpolation import shifted
from scutcher.core.data.regions import Regions, inside
from scutcher.core.data.table import Table
from scutcher.core.errors import RecipeError
from scutcher.core.treatments.base import Inside, Learned, Parameters, Treatment
from scutcher.core.treatments.support.reference_spectra import (
    ReferenceColumn,
    ReferenceKind,
    ReferenceLevel,
    ReferenceSample,
    learn_reference,
)
from scutcher.core.treatments.support.shifting import MostShift


class ShiftByCorrelationParameters(Parameters, frozen=True):
    """Against what, where, how far."""

    reference: Annotated[ReferenceKind, Meta(description="the spectrum others are shifted to")] = "mean"
    column: ReferenceColumn = ""
    level: ReferenceLevel = ""
    sample: ReferenceSample = ""
    regions: Annotated[
        Regions, Meta(description="intervals that are compared; none: the whole", extra={"unit": "axis"})
    ] = ()
    each: Annotated[bool, Meta(description="each interval moves on its own; otherwise all move together")] = (
        False
    )
    most: MostShift = 5


def best_shifts(spectra: Floats, reference: Floats, kept: Integers, most: int) -> Floats:
    """The shift at which each spectrum correlates best with the reference, to a fraction of a channel.

    Parameters
    ----------
    spectra : (n, p) float array
    reference : (p,) float array
    kept : (w,) int array
        Channels that are compared, none within `most` of an end.
    most : int
        Shifts from −most to most channels are tried; between them a parabola through the best three.

    Returns
    -------
    (n,) float array
        In channels: `spectrum(channel + shift)` resembles `reference(channel)`.
    """
    held = reference[kept] - reference[kept].mean()
    lags = np.arange(-most, most + 1)
    found = np.empty((len(lags), len(spectra)))
    for place, lag in enumerate(lags):
        part = spectra[:, kept + lag]
        part = part - part.mean(axis=1, keepdims=True)
        size = np.sqrt(np.einsum("ij,ij->i", part, part))
        found[place] = part @ held / np.where(size > 0.0, size, np.inf)
    best = found.argmax(axis=0)
    inner = np.clip(best, 1, len(lags) - 2)
    rows = np.arange(len(spectra))
    left, middle, right = found[inner - 1, rows], found[inner, rows], found[inner + 1, rows]
    bend = left - 2.0 * middle + right
    part_of = np.divide(0.5 * (left - right), bend, out=np.zeros_like(bend), where=bend < 0.0)
    shifts: Floats = np.where(inner == best, lags[inner] + np.clip(part_of, -0.5, 0.5), lags[best])
    return shifts


def _intervals(table: Table, parameters: ShiftByCorrelationParameters) -> list[Integers]:
    """The channels of each interval that moves, clear of the ends."""
    channels, most = table.shape[1], parameters.most
    if channels <= 4 * most:
        raise RecipeError(
            f"A largest shift of {most} channels is too much for {channels} channels.",
            f"Choose at most {max((channels - 1) // 4, 1)}.",
        )
    clear = np.zeros(channels, dtype=bool)
    clear[most : channels - most] = True
    apart = parameters.each and parameters.regions
    groups = [(r,) for r in parameters.regions] if apart else [parameters.regions]
    parts = [np.flatnonzero(clear & inside(table.axis, g)) if g else np.flatnonzero(clear) for g in groups]
    if any(len(part) < 3 for part in parts):
        raise RecipeError("An interval has fewer than three channels to compare.", "Choose wider intervals.")
    return parts


def _shifts(table: Table, parameters: ShiftByCorrelationParameters, learned: Learned) -> list[Floats]:
    assert learned is not None
    return [
        best_shifts(table.values, learned["reference"], part, parameters.most)
        for part in _intervals(table, parameters)
    ]


def apply(table: Table, parameters: ShiftByCorrelationParameters, learned: Learned) -> Table:
    """Treat a table."""
    most, found = parameters.most, _shifts(table, parameters, learned)
    kept = np.arange(most, table.shape[1] - most)
    if parameters.each and parameters.regions:
        values = table.values[:, kept].copy()
        for part, shifts in zip(_intervals(table, parameters), found, strict=True):
            values[:, part - most] = shifted(table.values, shifts, most)[:, part - most]
    else:
        values = shifted(table.values, found[0], most)
    return replace(table, values=values, axis=table.axis.take(kept))


def show(table: Table, after: Table, parameters: ShiftByCorrelationParameters, learned: Learned) -> Inside:
    """The reference, and the shift of each sample (of the first interval)."""
    assert learned is not None
    shifts = _shifts(table, parameters, learned)[0]
    return Inside(reference=learned["reference"], per_sample=shifts, per_sample_name="shift / channels")


TREATMENT = Treatment(
    key="shift-by-correlation",
    name="Shift by cross-correlation",
    family="align",
    purpose="aligns spectra that are shifted along the axis, by their whole shape or by intervals",
    help="Each spectrum, or each interval on its own, moves to where it correlates best with the reference. "
    "The outermost channels are dropped, so that nothing is made up at the ends.",
    source="Savorani, Tomasi & Engelsen, J. Magn. Reson. 202 (2010) 190–202",
    parameters=ShiftByCorrelationParameters,
    apply=apply,
    fit=learn_reference,
    needs=("ordered", "even", "no-gaps"),
    short=lambda p: f"to the {p.reference}" + (f" in {len(p.regions)} intervals" if p.regions else ""),
    inside=show,
    cost=1300.0,
)
