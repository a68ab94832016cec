"""Baseline by asymmetrically reweighted penalised least squares."""

from __future__ import annotations

from typing import Annotated

import numpy as np
from msgspec import Meta

from scutcher.core.arrays import Booleans, Floats
from scutcher.core.data.table import Table
from scutcher.core.numeric.banded_systems import reweighted_fit
from scutcher.core.treatments.base import Parameters, Treatment, subtracting, taken_off
from scutcher.core.words import shown


class ArplsParameters(Parameters, frozen=True):
    """Smoothness, tolerance, rounds."""

    smoothness: Annotated[
        float,
        Meta(
            gt=0.0,
            le=1e15,
            description="stiffness of the baseline",
            extra={"slider": (1e2, 1e9), "log": True},
        ),
    ] = 1e5
    tolerance: Annotated[
        float,
        Meta(
            gt=0.0,
            lt=1.0,
            description="change of the weights that ends it",
            extra={"slider": (1e-6, 0.1), "log": True},
        ),
    ] = 1e-3
    rounds: Annotated[int, Meta(ge=1, le=200, description="most iterations", extra={"slider": (1, 100)})] = 50


def arpls_baseline(spectra: Floats, smoothness: float, tolerance: float, rounds: int) -> Floats:
    """A smooth curve through the noise of the baseline; channels that stand out above it lose their weight.

    Parameters
    ----------
    spectra : (n, p) float array
        Evenly spaced channels, p ≥ 3, finite.
    smoothness : float
        λ of the squared second differences.
    tolerance : float
        A spectrum is done when ‖w − w'‖ / ‖w‖ is below it.
    rounds : int
        Most iterations.

    Returns
    -------
    (n, p) float64 array
        In the unit of the signal.

    References
    ----------
    Baek, Park, Ahn & Choo, Analyst 140 (2015) 250–257, equation for the weights: 1 below the curve, the
    logistic function of the residual above it.
    """

    def settled(old: Floats, fresh: Floats) -> Booleans:
        done: Booleans = np.linalg.norm(old - fresh, axis=1) / np.linalg.norm(old, axis=1) < tolerance
        return done

    return reweighted_fit(spectra, smoothness, rounds, _weights, settled)


def _weights(away: Floats) -> Floats:
    """The new weights of each spectrum from its residuals, (n, p)."""
    below = away < 0.0
    count = np.maximum(below.sum(axis=1, keepdims=True), 1)
    mean = np.where(below, away, 0.0).sum(axis=1, keepdims=True) / count
    square = np.where(below, (away - mean) ** 2, 0.0).sum(axis=1, keepdims=True)
    spread = np.sqrt(square / np.maximum(count - 1, 1))
    safe = np.where(spread > 0.0, spread, 1.0)
    exponent = np.clip(2.0 * (away - (2.0 * spread - mean)) / safe, -500.0, 500.0)
    fresh: Floats = np.where(below | (spread == 0.0), 1.0, 1.0 / (1.0 + np.exp(exponent)))
    return fresh


def baselines(table: Table, parameters: ArplsParameters) -> Floats:
    """The baseline of each sample, (n, p)."""
    return arpls_baseline(table.values, parameters.smoothness, parameters.tolerance, parameters.rounds)


TREATMENT = Treatment(
    key="arpls",
    name="Reweighted least squares baseline (arPLS)",
    family="baseline",
    purpose="removes a curved baseline under peaks, through the middle of the noise",
    help="The curve runs through the noise of the baseline, not under it; only the smoothness is to be set.",
    source="Baek, Park, Ahn & Choo, Analyst 140 (2015) 250–257",
    parameters=ArplsParameters,
    apply=subtracting(baselines),
    needs=("ordered", "even", "no-gaps"),
    short=lambda p: f"smoothness {shown(p.smoothness)}",
    inside=taken_off,
    slow=True,
    cost=17000.0,
)
