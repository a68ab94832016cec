"""Standard normal variate: each spectrum centred and scaled by its own mean and standard deviation."""

from __future__ import annotations

from typing import Annotated

import numpy as np
from msgspec import Meta

from scutcher.core.arrays import CONSTANT_SPREAD, Booleans, Floats
from scutcher.core.data.regions import Regions, inside
from scutcher.core.data.table import Table
from scutcher.core.errors import TableError
from scutcher.core.numeric.recycled import recycled
from scutcher.core.numeric.threads import in_parts
from scutcher.core.treatments.base import Learned, Parameters, Treatment

ROWS_AT_ONCE = 64


class SnvParameters(Parameters, frozen=True):
    """Where mean and deviation are taken."""

    regions: Annotated[
        Regions,
        Meta(description="where mean and deviation are taken; none: everywhere", extra={"unit": "axis"}),
    ] = ()


def snv(spectra: Floats, within: Booleans | None = None) -> Floats:
    """Centre and scale each spectrum by its own mean and standard deviation.

    Parameters
    ----------
    spectra : (n, p) float array
        One spectrum per row, any intensity unit; finite; not changed.
    within : (p,) bool array, optional
        The channels that mean and standard deviation are taken over; all if not given.

    Returns
    -------
    (n, p) float64 array
        Dimensionless: over those channels each row has mean 0 and standard deviation 1, divisor p − 1.

    Raises
    ------
    TableError
        A spectrum is flat: its spread is below 1e-12 of its magnitude.

    References
    ----------
    Barnes, Dhanoa & Lister, Appl. Spectrosc. 43 (1989) 772–777.
    """
    treated = recycled(spectra.shape)

    def treat(run: slice, own: None) -> None:
        for start in range(run.start, run.stop, ROWS_AT_ONCE):  # a part that stays in the processor's cache
            rows = slice(start, min(start + ROWS_AT_ONCE, run.stop))
            part = spectra[rows]
            seen = part if within is None else part[:, within]
            means = seen.mean(axis=1, keepdims=True)
            centred = np.subtract(part, means, out=treated[rows])
            away = centred if within is None else seen - means
            squares = np.einsum("ij,ij->i", away, away)
            deviations = np.sqrt(squares / max(away.shape[1] - 1, 1))
            most = np.abs(means[:, 0]) + np.sqrt(squares)  # no value of the row is larger
            for row in np.flatnonzero(deviations <= CONSTANT_SPREAD * most):
                if deviations[row] <= CONSTANT_SPREAD * np.abs(seen[row]).max(initial=0.0):
                    raise TableError(
                        f"Spectrum {start + row + 1} is flat: it has no standard deviation to scale by.",
                        "Set it aside or switch SNV off.",
                    )
            centred *= (1.0 / deviations)[:, np.newaxis]

    in_parts(treat, spectra.shape, lambda: None)
    return treated


def apply(table: Table, parameters: SnvParameters, learned: Learned) -> Table:
    """Treat a table; names the sample where a spectrum is flat."""
    within = inside(table.axis, parameters.regions) if parameters.regions else None
    try:
        return table.with_values(snv(table.values, within), signal=f"{table.signal}, SNV", unit="")
    except TableError as error:
        seen = table.values if within is None else table.values[:, within]
        flat = int(np.ptp(seen, axis=1).argmin())
        raise TableError(
            f"SNV: sample {table.ids[flat]} is flat, it has no standard deviation to scale by.",
            error.remedy,
        ) from error


TREATMENT = Treatment(
    key="snv",
    name="Standard normal variate",
    family="scatter",
    purpose="removes scatter: offset and multiplicative size of each spectrum",
    help="Each spectrum is centred and scaled by its own mean and standard deviation (n − 1). "
    "It needs no reference, so a new sample is treated as the old ones were.",
    source="Barnes, Dhanoa & Lister, Appl. Spectrosc. 43 (1989) 772–777",
    parameters=SnvParameters,
    apply=apply,
    needs=("no-gaps",),
    short=lambda parameters: "SNV" + (" in regions" if parameters.regions else ""),
)
