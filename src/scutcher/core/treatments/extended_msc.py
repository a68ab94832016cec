"""Extended multiplicative scatter correction: reference, polynomial and known interferents at once."""

from __future__ import annotations

from typing import Annotated

import numpy as np
from msgspec import Meta

from scutcher.core.arrays import Booleans, Floats
from scutcher.core.data.regions import Regions, inside_or_all
from scutcher.core.data.table import Table
from scutcher.core.errors import TableError
from scutcher.core.treatments.base import Inside, Learned, Parameters, Treatment
from scutcher.core.treatments.support.reference_spectra import (
    ReferenceColumn,
    ReferenceKind,
    ReferenceLevel,
    ReferenceSample,
    reference_spectrum,
    row_of_sample,
)


class ExtendedMscParameters(Parameters, frozen=True):
    """Reference, degree of the polynomial, interferents."""

    degree: Annotated[int, Meta(ge=0, le=6, description="degree of the baseline polynomial")] = 2
    reference: Annotated[ReferenceKind, Meta(description="the spectrum others are brought onto")] = "mean"
    column: ReferenceColumn = ""
    level: ReferenceLevel = ""
    sample: ReferenceSample = ""
    interferents: Annotated[
        tuple[str, ...],
        Meta(
            description="ids of samples whose departure from the reference is a known disturbance",
            extra={"of": "sample"},
        ),
    ] = ()
    regions: Annotated[
        Regions, Meta(description="where the parts are fitted; none: everywhere", extra={"unit": "axis"})
    ] = ()


def extended_msc(
    spectra: Floats, reference: Floats, nuisances: Floats, within: Booleans
) -> tuple[Floats, Floats, Floats]:
    """Fit `x ≈ b·reference + Σ c_m·nuisance_m`, take off the nuisances, divide by b.

    Parameters
    ----------
    spectra : (n, p) float array
    reference : (p,) float array
    nuisances : (m, p) float array
        Polynomials along the axis and interferents.
    within : (p,) bool array
        The channels that are fitted.

    Returns
    -------
    (n, p), (n, p), (n,) float arrays
        Corrected spectra, what was taken off, and b.

    Raises
    ------
    TableError
        The parts cannot be told apart; a spectrum has none of the reference.

    References
    ----------
    Martens & Stark, J. Pharm. Biomed. Anal. 9 (1991) 625–635.
    """
    parts = np.vstack([reference, nuisances])
    seen = parts[:, within]
    scales = np.sqrt(np.einsum("ij,ij->i", seen, seen))
    if not scales.all() or np.linalg.matrix_rank(seen / scales[:, np.newaxis], tol=1e-10) < len(parts):
        raise TableError(
            "Extended MSC: reference, polynomial and interferents cannot be told apart in these channels.",
            "Lower the degree, drop an interferent, or widen the regions.",
        )
    amounts = spectra[:, within] @ np.linalg.pinv(seen / scales[:, np.newaxis]) / scales
    taken = amounts[:, 1:] @ nuisances
    sizes = amounts[:, 0]
    lost = np.flatnonzero(np.abs(sizes) * scales[0] <= 1e-12 * np.linalg.norm(spectra, axis=1))
    if lost.size:
        raise TableError(f"Extended MSC: spectrum {lost[0] + 1} has none of the reference.", "Set it aside.")
    return (spectra - taken) / sizes[:, np.newaxis], taken, sizes


def fit(table: Table, parameters: ExtendedMscParameters) -> Learned:
    """The reference, and how the spectra of the interferents depart from it."""
    rows = [row_of_sample(table, name) for name in parameters.interferents]
    reference = reference_spectrum(table, parameters)
    return {"reference": reference, "interferents": table.values[rows] - reference}


def _corrected(
    table: Table, parameters: ExtendedMscParameters, learned: Learned
) -> tuple[Floats, Floats, Floats]:
    assert learned is not None
    interferents = np.reshape(learned["interferents"], (-1, table.shape[1]))
    nuisances = np.vstack([table.axis.polynomials(parameters.degree).T, interferents])
    within = inside_or_all(table.axis, parameters.regions)
    return extended_msc(table.values, learned["reference"], nuisances, within)


def apply(table: Table, parameters: ExtendedMscParameters, learned: Learned) -> Table:
    """Treat a table."""
    values, _, _ = _corrected(table, parameters, learned)
    return table.with_values(values, signal=f"{table.signal}, extended MSC")


def show(table: Table, after: Table, parameters: ExtendedMscParameters, learned: Learned) -> Inside:
    """The reference, what was taken off, and the amount of the reference in each spectrum."""
    assert learned is not None
    _, taken, sizes = _corrected(table, parameters, learned)
    return Inside(taken, learned["reference"], sizes, "amount of the reference")


TREATMENT = Treatment(
    key="extended-msc",
    name="Extended MSC",
    family="scatter",
    purpose="removes scatter, curved baselines and known interferents in one fit",
    help="Reference, a polynomial along the axis and the interferents are fitted to each spectrum together; "
    "all but the reference is taken off. A high degree can take off chemistry too.",
    source="Martens & Stark, J. Pharm. Biomed. Anal. 9 (1991) 625–635",
    parameters=ExtendedMscParameters,
    apply=apply,
    fit=fit,
    of_mean=lambda parameters: parameters.reference == "mean" and not parameters.interferents,
    needs=("ordered", "no-gaps"),
    short=lambda parameters: f"degree {parameters.degree}, reference: {parameters.reference}",
    inside=show,
)
