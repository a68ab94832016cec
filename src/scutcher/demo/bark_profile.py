"""Demo set `bark-profile`: counts of a beam that goes through bark into fibre, layer by layer."""

from __future__ import annotations

from functools import cache
from typing import Any

import numpy as np

from scutcher.core.data.axis import Axis
from scutcher.core.data.columns import ClassColumn, PropertyColumn
from scutcher.core.data.table import Table

NAME, SEED = "bark-profile", 1911
LAYERS, CHANNELS = 48, 220
LOW, HIGH = 150.0, 1250.0  # electron volts
DEAD = 0.004  # of a counting interval, for each count
# centre, full width, height in counts of what bark, the glue under it and fibre send out
BARK = ((285.0, 22.0, 60.0), (532.0, 26.0, 30.0), (1070.0, 30.0, 26.0))
GLUE = ((400.0, 24.0, 34.0), (285.0, 22.0, 22.0), (640.0, 40.0, 14.0))
FIBRE = ((285.0, 22.0, 30.0), (532.0, 26.0, 66.0))


def _bands(axis: np.ndarray, bands: tuple[tuple[float, float, float], ...]) -> np.ndarray:
    found: np.ndarray = sum(
        height * np.exp(-4.0 * np.log(2.0) * ((axis - centre) / width) ** 2)
        for centre, width, height in bands
    )
    return found


@cache
def bark_profile() -> tuple[Table, dict[str, Any]]:
    """Make the set: 48 depths, finer where the layers meet, × 220 channels of counts, and the truth."""
    rng = np.random.default_rng(SEED)
    axis = np.round(np.linspace(LOW, HIGH, CHANNELS), 3)
    steps = np.where((np.arange(LAYERS) > 14) & (np.arange(LAYERS) < 34), 0.5, 1.5)
    depth = np.round(np.cumsum(steps) - steps[0], 3)  # micrometres
    bark = 1.0 / (1.0 + np.exp((depth - 27.0) / 1.6))
    glue = np.exp(-(((depth - 28.5) / 2.2) ** 2))
    fibre = 1.0 - bark
    pure = np.array([_bands(axis, bands) for bands in (BARK, GLUE, FIBRE)])
    rate = np.column_stack([bark, 0.55 * glue, fibre]) @ pure + 9.0 + 6.0 * np.exp(-(axis - LOW) / 300.0)
    counted = rng.poisson(rate / (1.0 + DEAD * rate)).astype(np.float64)
    layers = np.where(bark > 0.85, "bark", np.where(fibre > 0.85, "fibre", "between"))
    table = Table(
        values=counted,
        axis=Axis(tuple(f"{value:g}" for value in axis), axis, "energy", "eV"),
        ids=tuple(f"B{place + 1:02d}" for place in range(LAYERS)),
        name=NAME,
        classes=(ClassColumn("layer", tuple(layers.tolist()), ("bark", "between", "fibre")),),
        properties=(PropertyColumn("depth", depth, "µm"),),
        signal="counts",
    )
    truth = {
        "set": NAME,
        "seed": SEED,
        "roles": {"id": "sample", "class": ["layer"], "property": ["depth / µm"]},
        "states": 3,
        "dead_time": DEAD,
        "bark_half_gone_um": 27.0,
        "glue_most_at_um": 28.5,
        "share_of_bark": dict(zip(table.ids, bark.round(6).tolist(), strict=True)),
        "share_of_glue": dict(zip(table.ids, (0.55 * glue).round(6).tolist(), strict=True)),
    }
    return table, truth
