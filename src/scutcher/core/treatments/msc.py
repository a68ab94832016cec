"""Multiplicative scatter correction: each spectrum brought onto a reference by its own line."""

from __future__ import annotations

from typing import Annotated

import numpy as np
from msgspec import Meta

from scutcher.core.arrays import CONSTANT_SPREAD, Booleans, Floats
from scutcher.core.data.regions import Regions, inside_or_all
from scutcher.core.data.table import Table
from scutcher.core.errors import TableError
from scutcher.core.numeric.recycled import recycled
from scutcher.core.treatments.base import Inside, Learned, Parameters, Treatment
from scutcher.core.treatments.support.reference_spectra import (
    ReferenceColumn,
    ReferenceKind,
    ReferenceLevel,
    ReferenceSample,
    learn_reference,
)

ROWS_AT_ONCE = 64


class MscParameters(Parameters, frozen=True):
    """Which reference, and where it is fitted."""

    reference: Annotated[ReferenceKind, Meta(description="the spectrum others are brought onto")] = "mean"
    column: ReferenceColumn = ""
    level: ReferenceLevel = ""
    sample: ReferenceSample = ""
    regions: Annotated[
        Regions, Meta(description="where the line is fitted; none: everywhere", extra={"unit": "axis"})
    ] = ()


def lines_onto(spectra: Floats, reference: Floats, within: Booleans) -> tuple[Floats, Floats]:
    """Offset and slope of each spectrum over a reference, by least squares: `x ≈ offset + slope·reference`.

    Shapes (n, p), (p,), (p,) → (n,), (n,).
    """
    held = reference[within]
    weights = np.zeros(len(reference))
    weights[within] = (held - held.mean()) / np.sum((held - held.mean()) ** 2)
    slopes = spectra @ weights
    shares = within / within.sum()
    offsets: Floats = spectra @ shares - slopes * held.mean()
    return offsets, slopes


def msc(spectra: Floats, reference: Floats, within: Booleans) -> Floats:
    """Take off the offset of each spectrum and divide by its slope over the reference.

    Parameters
    ----------
    spectra : (n, p) float array
        Any intensity unit; finite; not changed.
    reference : (p,) float array
        Same unit; not flat.
    within : (p,) bool array
        The channels that the line is fitted over.

    Returns
    -------
    (n, p) float64 array
        In the unit of the spectra.

    Raises
    ------
    TableError
        The reference is flat; a spectrum has no slope over it.

    References
    ----------
    Geladi, MacDougall & Martens, Appl. Spectrosc. 39 (1985) 491–500.
    """
    held = reference[within]
    if np.ptp(held) <= CONSTANT_SPREAD * np.abs(held).max():
        raise TableError("MSC: the reference is flat.", "Choose another reference or wider regions.")
    treated = recycled(spectra.shape)
    for start in range(0, len(spectra), ROWS_AT_ONCE):  # a part that stays in the processor's cache
        rows = slice(start, start + ROWS_AT_ONCE)
        offsets, slopes = lines_onto(spectra[rows], reference, within)
        size = np.abs(spectra[rows]).max(axis=1)
        lost = np.flatnonzero(np.abs(slopes) * np.ptp(held) <= CONSTANT_SPREAD * size)
        if lost.size:
            raise TableError(
                f"MSC: spectrum {start + lost[0] + 1} has no slope over the reference.", "Set it aside."
            )
        np.subtract(spectra[rows], offsets[:, np.newaxis], out=treated[rows])
        treated[rows] *= (1.0 / slopes)[:, np.newaxis]
    return treated


def apply(table: Table, parameters: MscParameters, learned: Learned) -> Table:
    """Treat a table."""
    assert learned is not None
    within = inside_or_all(table.axis, parameters.regions)
    values = msc(table.values, learned["reference"], within)
    return table.with_values(values, signal=f"{table.signal}, MSC")


def show(table: Table, after: Table, parameters: MscParameters, learned: Learned) -> Inside:
    """The reference, and the slope of each spectrum over it."""
    assert learned is not None
    within = inside_or_all(table.axis, parameters.regions)
    slopes = lines_onto(table.values, learned["reference"], within)[1]
    return Inside(
        reference=learned["reference"], per_sample=slopes, per_sample_name="slope over the reference"
    )


TREATMENT = Treatment(
    key="msc",
    name="Multiplicative scatter correction",
    family="scatter",
    purpose="removes scatter: offset and multiplicative size against a reference spectrum",
    help="A line is fitted to each spectrum over the reference, its offset taken off and its slope divided "
    "out. New samples are held against the stored reference.",
    source="Geladi, MacDougall & Martens, Appl. Spectrosc. 39 (1985) 491–500",
    parameters=MscParameters,
    apply=apply,
    fit=learn_reference,
    of_mean=lambda parameters: parameters.reference == "mean",
    needs=("no-gaps",),
    short=lambda parameters: f"reference: {parameters.reference}",
    inside=show,
)
