"""A polynomial baseline, fitted outside the bands."""

from __future__ import annotations

from typing import Annotated

import numpy as np
from msgspec import Meta

from scutcher.core.arrays import Floats
from scutcher.core.data.regions import Regions, inside
from scutcher.core.data.table import Table
from scutcher.core.errors import RecipeError
from scutcher.core.treatments.base import Parameters, Treatment, subtracting, taken_off


class BaselinePolynomialParameters(Parameters, frozen=True):
    """Degree, and where the bands are."""

    degree: Annotated[
        int, Meta(ge=0, le=10, description="degree of the polynomial", extra={"slider": (0, 6)})
    ] = 2
    exclude: Annotated[
        Regions, Meta(description="regions with bands, passed over by the fit", extra={"unit": "axis"})
    ] = ()


def baselines(table: Table, parameters: BaselinePolynomialParameters) -> Floats:
    """The least-squares polynomial of each spectrum, (n, p), in the unit of the signal."""
    kept = ~inside(table.axis, parameters.exclude)
    if kept.sum() <= parameters.degree:
        raise RecipeError(
            f"A polynomial of degree {parameters.degree} needs more than {parameters.degree} channels; "
            f"{int(kept.sum())} are not excluded.",
            "Lower the degree or exclude less.",
        )
    powers = table.axis.polynomials(parameters.degree)
    found: Floats = (table.values[:, kept] @ np.linalg.pinv(powers[kept]).T) @ powers.T
    return found


TREATMENT = Treatment(
    key="baseline-polynomial",
    name="Polynomial baseline",
    family="baseline",
    purpose="removes a curved baseline (detrending), fitted outside the bands",
    help="A least-squares polynomial over the channels that are not excluded. Without exclusions this is "
    "detrending: it follows broad bands as well.",
    source="Barnes, Dhanoa & Lister, Appl. Spectrosc. 43 (1989) 772–777",
    parameters=BaselinePolynomialParameters,
    apply=subtracting(baselines),
    needs=("ordered", "no-gaps"),
    short=lambda p: f"degree {p.degree}" + (f" · {len(p.exclude)} excluded" if p.exclude else ""),
    inside=taken_off,
)
