"""Baseline by clipping peaks with ever wider windows (SNIP)."""

from __future__ import annotations

from typing import Annotated

import numpy as np
from msgspec import Meta

from scutcher.core.arrays import Floats
from scutcher.core.data.table import Table
from scutcher.core.errors import RecipeError
from scutcher.core.treatments.base import Parameters, Treatment, subtracting, taken_off
from scutcher.core.treatments.support.refusals import refuse_values


class SnipParameters(Parameters, frozen=True):
    """Half width of the widest window."""

    half_width: Annotated[
        int,
        Meta(
            ge=1,
            le=5000,
            description="half of the widest peak",
            extra={"unit": "channels", "slider": (1, 200)},
        ),
    ] = 10
    compress: Annotated[
        bool, Meta(description="work on log(log(√(y + 1) + 1) + 1), for counts over many decades")
    ] = True


def snip_baseline(spectra: Floats, half_width: int, compress: bool) -> Floats:
    """Replace each channel by the mean of its two neighbours at distance 1, 2, … where that is lower.

    Parameters
    ----------
    spectra : (n, p) float array
        Finite; above −1 where compressed.
    half_width : int
        The last distance, in channels; below p / 2.
    compress : bool
        Clip a compressed signal, so that high peaks do not lift their surroundings.

    Returns
    -------
    (n, p) float64 array
        In the unit of the signal. A channel nearer to an end than the distance is not clipped.

    References
    ----------
    Ryan et al., Nucl. Instrum. Methods B 34 (1988) 396–402.
    """
    curve = np.log(np.log(np.sqrt(spectra + 1.0) + 1.0) + 1.0) if compress else spectra.copy()
    for reach in range(1, half_width + 1):
        between = 0.5 * (curve[:, : -2 * reach] + curve[:, 2 * reach :])
        curve[:, reach:-reach] = np.minimum(curve[:, reach:-reach], between)
    if compress:
        curve = (np.exp(np.exp(curve) - 1.0) - 1.0) ** 2 - 1.0
    return curve


def baselines(table: Table, parameters: SnipParameters) -> Floats:
    """The baseline of each sample, (n, p)."""
    longest = (table.shape[1] - 1) // 2
    if parameters.half_width > longest:
        raise RecipeError(
            f"The half width is {parameters.half_width} channels; the spectra have {table.shape[1]}.",
            f"Choose 1 to {longest}.",
        )
    if parameters.compress:
        wrong = table.values <= -1.0
        refuse_values(table, wrong, "SNIP compresses values above −1", "Switch compress off.")
    return snip_baseline(table.values, parameters.half_width, parameters.compress)


TREATMENT = Treatment(
    key="snip",
    name="Peak clipping baseline (SNIP)",
    family="baseline",
    purpose="removes the background under sharp peaks of counts",
    help="The half width should be that of the widest peak: anything broader is taken for background.",
    source="Ryan et al., Nucl. Instrum. Methods B 34 (1988) 396–402",
    parameters=SnipParameters,
    apply=subtracting(baselines),
    needs=("ordered", "no-gaps"),
    short=lambda p: f"half width {p.half_width} channels",
    inside=taken_off,
    suggest=lambda table: SnipParameters(half_width=max(1, min(table.shape[1] // 10, 500))),
    slow=True,
    cost=1500.0,
)
