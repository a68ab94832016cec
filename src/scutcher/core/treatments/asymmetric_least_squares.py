"""Baseline by asymmetric least squares: a smooth curve that lets peaks stand above it."""

from __future__ import annotations

from typing import Annotated

import numpy as np
from msgspec import Meta

from scutcher.core.arrays import Booleans, Floats
from scutcher.core.data.table import Table
from scutcher.core.numeric.banded_systems import reweighted_fit
from scutcher.core.treatments.base import Parameters, Treatment, subtracting, taken_off
from scutcher.core.words import shown


class AsymmetricLeastSquaresParameters(Parameters, frozen=True):
    """Smoothness, asymmetry, rounds."""

    smoothness: Annotated[
        float,
        Meta(
            gt=0.0,
            le=1e15,
            description="stiffness of the baseline",
            extra={"slider": (1e2, 1e9), "log": True},
        ),
    ] = 1e5
    asymmetry: Annotated[
        float,
        Meta(
            gt=0.0,
            lt=1.0,
            description="weight of points above the curve",
            extra={"slider": (1e-4, 0.5), "log": True},
        ),
    ] = 0.01
    rounds: Annotated[int, Meta(ge=1, le=200, description="most iterations", extra={"slider": (1, 50)})] = 20


def asymmetric_baseline(spectra: Floats, smoothness: float, asymmetry: float, rounds: int) -> Floats:
    """A smooth curve under each spectrum.

    Parameters
    ----------
    spectra : (n, p) float array
        Evenly spaced channels, p ≥ 3, finite.
    smoothness : float
        λ of the squared second differences.
    asymmetry : float
        Weight of channels above the curve; those at or below it weigh one less that.
    rounds : int
        Most iterations; a spectrum is done when its weights no longer change.

    Returns
    -------
    (n, p) float64 array
        In the unit of the signal.

    References
    ----------
    Eilers & Boelens, Baseline correction with asymmetric least squares smoothing, Leiden University
    Medical Centre report (2005).
    """

    def weigh(away: Floats) -> Floats:
        return np.where(away > 0.0, asymmetry, 1.0 - asymmetry)

    def settled(old: Floats, fresh: Floats) -> Booleans:
        done: Booleans = np.all(old == fresh, axis=1)
        return done

    return reweighted_fit(spectra, smoothness, rounds, weigh, settled)


def baselines(table: Table, parameters: AsymmetricLeastSquaresParameters) -> Floats:
    """The baseline of each sample, (n, p)."""
    return asymmetric_baseline(table.values, parameters.smoothness, parameters.asymmetry, parameters.rounds)


TREATMENT = Treatment(
    key="asymmetric-least-squares",
    name="Asymmetric least squares baseline",
    family="baseline",
    purpose="removes a curved baseline under peaks, without saying where the peaks are",
    help="Raise the smoothness until the curve no longer climbs into broad bands; lower the asymmetry until "
    "it runs under the noise.",
    source="Eilers & Boelens, Leiden University Medical Centre report (2005)",
    parameters=AsymmetricLeastSquaresParameters,
    apply=subtracting(baselines),
    needs=("ordered", "even", "no-gaps"),
    short=lambda p: f"smoothness {shown(p.smoothness)} · asymmetry {shown(p.asymmetry)}",
    inside=taken_off,
    slow=True,
    cost=3600.0,
)
