"""Savitzky–Golay: smoothing and derivatives by a polynomial over a moving window."""

from __future__ import annotations

from math import factorial
from typing import Annotated

import numpy as np
from msgspec import Meta

from scutcher.core.arrays import Floats
from scutcher.core.data.table import Table
from scutcher.core.errors import RecipeError
from scutcher.core.numeric.recycled import recycled
from scutcher.core.numeric.threads import in_parts
from scutcher.core.treatments.base import Learned, Parameters, Treatment
from scutcher.core.treatments.support.requirements import spacing
from scutcher.core.treatments.support.windows import check_window

BLOCK = 32  # channels of one product

ORDINALS = ("smoothed", "1st derivative", "2nd derivative", "3rd derivative", "4th derivative")


class SavitzkyGolayParameters(Parameters, frozen=True):
    """Window, polynomial and derivative."""

    window: Annotated[
        int,
        Meta(
            ge=3,
            le=999,
            description="channels in the window, odd",
            extra={"unit": "channels", "slider": (3, 61)},
        ),
    ] = 15
    degree: Annotated[
        int, Meta(ge=0, le=8, description="degree of the polynomial", extra={"slider": (0, 5)})
    ] = 2
    derivative: Annotated[int, Meta(ge=0, le=4, description="0 smooths, 1 and 2 are derivatives")] = 1


def window_weights(window: int, degree: int, derivative: int) -> Floats:
    """Weights that give the derivative of the window's polynomial at each of its channels.

    Returns
    -------
    (window, window) float array
        Row i: the weights for the derivative at channel i, per channel to that power.
    """
    half = window // 2
    u = np.arange(-half, half + 1, dtype=float) / max(half, 1)
    powers = np.vander(u, degree + 1, increasing=True)
    fitted = np.linalg.pinv(powers)  # (degree + 1, window): coefficients from values
    slopes = np.zeros((window, degree + 1))
    for power in range(derivative, degree + 1):
        slopes[:, power] = factorial(power) / factorial(power - derivative) * u ** (power - derivative)
    weights: Floats = slopes @ fitted / max(half, 1) ** derivative
    return weights


def savitzky_golay(spectra: Floats, window: int, degree: int, derivative: int, step: float) -> Floats:
    """Fit a polynomial to the window around each channel and take its value or derivative there.

    Parameters
    ----------
    spectra : (n, p) float array
        Evenly spaced channels; a gap makes gaps of all channels whose window holds it.
    window : int
        Channels, odd, from 3 to p.
    degree, derivative : int
        derivative ≤ degree < window.
    step : float
        Signed distance of neighbouring channels in axis units: negative on a falling axis, so that the
        derivative is that over the axis.

    Returns
    -------
    (n, p) float64 array
        In the unit of the signal per axis unit to the power of the derivative. The first and last half
        window come from the polynomial of the first and last full window.

    References
    ----------
    Savitzky & Golay, Anal. Chem. 36 (1964) 1627–1639.
    """
    weights = window_weights(window, degree, derivative) / step**derivative
    half, p = window // 2, spectra.shape[1]
    treated = recycled(spectra.shape)
    band = np.zeros((BLOCK + window - 1, BLOCK))
    for column in range(BLOCK):
        band[column : column + window, column] = weights[half]

    def work(rows: slice, own: None) -> None:
        part, out = spectra[rows], treated[rows]
        for start in range(0, p - window + 1, BLOCK):  # a banded matrix, block by block: fast through BLAS
            count = min(BLOCK, p - window + 1 - start)
            wide = count + window - 1
            out[:, half + start : half + start + count] = part[:, start : start + wide] @ band[:wide, :count]
        out[:, :half] = part[:, :window] @ weights[:half].T
        out[:, p - half :] = part[:, -window:] @ weights[half + 1 :].T

    in_parts(work, (len(spectra), p), lambda: None)
    return treated


def apply(table: Table, parameters: SavitzkyGolayParameters, learned: Learned) -> Table:
    """Treat a table."""
    window, degree, derivative = parameters.window, parameters.degree, parameters.derivative
    check_window(window, table.shape[1])
    if degree >= window:
        raise RecipeError(
            f"The degree is {degree}; it must be below the window of {window} channels.",
            f"Choose a degree up to {window - 1}.",
        )
    if derivative > degree:
        raise RecipeError(
            f"The derivative is {derivative}, the degree {degree}: a polynomial of that degree has none.",
            f"Choose a degree of at least {derivative}.",
        )
    values = savitzky_golay(table.values, window, degree, derivative, spacing(table))
    unit = table.signal_unit
    if derivative:
        power = "" if derivative == 1 else "²³⁴"[derivative - 2]
        unit = f"{unit or '1'}/{table.axis.unit or 'channel'}{power}"
    return table.with_values(values, signal=f"{table.signal}, {ORDINALS[derivative]}", unit=unit)


def suggest(table: Table) -> SavitzkyGolayParameters:
    """About a fortieth of the axis, odd, at least five channels."""
    channels = table.shape[1]
    window = min(max(5, 2 * (channels // 80) + 1), 2 * ((channels - 1) // 2) + 1)
    return SavitzkyGolayParameters(window=max(window, 3))


TREATMENT = Treatment(
    key="savitzky-golay",
    name="Savitzky–Golay",
    family="smoothing",
    purpose="derivative: removes offset and slope, sharpens overlapping bands; smooths noise",
    help="Derivatives are per axis unit. A wider window takes more noise and more detail; a derivative "
    "raises the share of noise. Half a window at each end comes from a one-sided fit.",
    source="Savitzky & Golay, Anal. Chem. 36 (1964) 1627–1639",
    parameters=SavitzkyGolayParameters,
    apply=apply,
    needs=("ordered", "even", "no-gaps"),
    short=lambda p: f"{ORDINALS[p.derivative]} · {p.window} channels · degree {p.degree}",
    suggest=suggest,
)
