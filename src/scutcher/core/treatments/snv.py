"""Standard normal variate: each spectrum centred and scaled by its own mean and standard deviation."""

from __future__ import annotations

import numpy as np

from scutcher.core.arrays import CONSTANT_SPREAD, Floats
from scutcher.core.errors import TableError
from scutcher.core.table import Table
from scutcher.core.treatments.base import Learned, Parameters, Treatment


class SnvParameters(Parameters, frozen=True):
    """There is nothing to set."""


def snv(spectra: Floats) -> Floats:
    """Centre and scale each spectrum by its own mean and standard deviation.

    Parameters
    ----------
    spectra : (n, p) float array
        One spectrum per row, any intensity unit; finite; not changed.

    Returns
    -------
    (n, p) float64 array
        Dimensionless: each row has mean 0 and standard deviation 1, with divisor p − 1.

    Raises
    ------
    TableError
        A spectrum is flat: its spread is below 1e-12 of its magnitude.

    References
    ----------
    Barnes, Dhanoa & Lister, Appl. Spectrosc. 43 (1989) 772–777.
    """
    centred: Floats = spectra - spectra.mean(axis=1, keepdims=True)
    channels = spectra.shape[1]
    deviations = np.sqrt(np.einsum("ij,ij->i", centred, centred) / max(channels - 1, 1))
    flat = np.flatnonzero(deviations <= CONSTANT_SPREAD * np.abs(spectra).max(axis=1, initial=0.0))
    if flat.size:
        raise TableError(
            f"Spectrum {flat[0] + 1} is flat: it has no standard deviation to scale by.",
            "Set it aside or switch SNV off.",
        )
    centred /= deviations[:, np.newaxis]
    return centred


def apply(table: Table, parameters: SnvParameters, learned: Learned) -> Table:
    """Treat a table; names the sample where a spectrum is flat."""
    try:
        return table.with_values(snv(table.values), signal=f"{table.signal}, SNV", unit="")
    except TableError as error:
        flat = int(np.ptp(table.values, axis=1).argmin())
        raise TableError(
            f"SNV: sample {table.ids[flat]} is flat, it has no standard deviation to scale by.",
            error.remedy,
        ) from error


TREATMENT = Treatment(
    key="snv",
    name="Standard normal variate",
    purpose="removes scatter: offset and multiplicative size of each spectrum",
    help="Each spectrum is centred and scaled by its own mean and standard deviation (n − 1). "
    "It needs no reference, so a new sample is treated as the old ones were.",
    source="Barnes, Dhanoa & Lister, Appl. Spectrosc. 43 (1989) 772–777",
    parameters=SnvParameters,
    apply=apply,
    needs=("no-gaps",),
    short=lambda parameters: "SNV",
)
