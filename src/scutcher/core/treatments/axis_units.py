"""Wavelengths in nm to wavenumbers in cm⁻¹, and back."""

from __future__ import annotations

from dataclasses import replace
from typing import Annotated, Literal

from msgspec import Meta

from scutcher.core.data.axis import Axis, headers_of
from scutcher.core.data.table import Table
from scutcher.core.errors import TableError
from scutcher.core.treatments.base import Learned, Parameters, Treatment
from scutcher.core.words import shown

QUANTITIES = {"nm": "wavelength", "cm⁻¹": "wavenumber"}


class AxisUnitsParameters(Parameters, frozen=True):
    """Which unit comes out."""

    to: Annotated[Literal["cm-1", "nm"], Meta(description="the unit that comes out")] = "cm-1"


def apply(table: Table, parameters: AxisUnitsParameters, learned: Learned) -> Table:
    """Values stay as they are, positions become 10⁷ / position; gaps stay gaps."""
    places = table.axis.places()
    unit = "cm⁻¹" if parameters.to == "cm-1" else "nm"
    if table.axis.unit.replace("cm-1", "cm⁻¹") == unit:
        raise TableError(f"The axis is in {unit} already.", "Switch the step off, or choose the other unit.")
    if places.min() <= 0.0:
        raise TableError(
            f"The axis starts at {shown(places.min())}; a wavelength is above zero.",
            "Check what the axis is.",
        )
    fresh = 1e7 / places
    axis = Axis(headers_of(fresh), fresh, QUANTITIES[unit], unit)
    return replace(table, axis=axis)


TREATMENT = Treatment(
    key="axis-units",
    name="Axis units nm ↔ cm⁻¹",
    family="transform",
    purpose="shows the axis as wavenumbers or wavelengths",
    help="The channels become unevenly spaced: resample before a derivative.",
    source="Cohen et al., Quantities, Units and Symbols in Physical Chemistry, IUPAC (2007)",
    parameters=AxisUnitsParameters,
    apply=apply,
    needs=("ordered",),
    short=lambda p: f"to {'cm⁻¹' if p.to == 'cm-1' else 'nm'}",
    suggest=lambda table: AxisUnitsParameters(to="nm" if "cm" in table.axis.unit else "cm-1"),
)
