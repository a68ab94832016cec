"""Demo set `drying-curves`: the lots of `intake-nir` in the drying oven, water left over time."""

from __future__ import annotations

from functools import cache
from typing import Any

import numpy as np

from scutcher.core.data.axis import Axis
from scutcher.core.data.columns import ClassColumn
from scutcher.core.data.table import Table
from scutcher.demo.intake_nir import LOTS, RETTING, intake_nir, lot_name

NAME, SEED = "drying-curves", 1823
TIMES, STEP = 31, 4.0  # minutes


@cache
def drying_curves() -> tuple[Table, dict[str, Any]]:
    """Make the set: 48 lots × 31 times, and the planted truth."""
    rng = np.random.default_rng(SEED)
    _, intake = intake_nir()
    made = np.array([intake["composition"][lot_name(lot)] for lot in range(LOTS)])
    _, pectin, lignin, water, _ = 100.0 * made.T
    minutes = STEP * np.arange(float(TIMES))
    slow = 34.0 + 1.8 * (pectin - pectin.mean()) - 1.2 * (lignin - lignin.mean())  # minutes
    shelf = rng.normal(size=LOTS)  # where in the oven it lay: nobody else knows of it
    onset = np.clip(6.0 + 1.5 * shelf, 0.0, None)
    passed = np.clip(minutes[np.newaxis, :] - onset[:, np.newaxis], 0.0, None)
    left = 1.0 + (water[:, np.newaxis] - 1.0) * np.exp(-passed / slow[:, np.newaxis])
    values = np.round(left + 0.02 * rng.normal(size=left.shape), 3)
    table = Table(
        values=values,
        axis=Axis(tuple(f"{value:g}" for value in minutes), minutes, "time", "min"),
        ids=tuple(lot_name(lot) for lot in range(LOTS)),
        name=NAME,
        classes=(ClassColumn("retting", tuple(RETTING[lot % 4] for lot in range(LOTS)), RETTING),),
        signal="water left",
        signal_unit="%",
    )
    place = dict(zip(table.ids, shelf.round(6).tolist(), strict=True))
    truth = {
        "set": NAME,
        "seed": SEED,
        "roles": {"id": "sample", "class": ["retting"]},
        "goes_with": {"level": "water", "how slow": "pectin less lignin"},
        "own": {"name": "place in the oven", "score": place},
    }
    return table, truth
