"""Demo set `bench`: the lots of `intake-nir` on the test bench, 12 variables in mixed units."""

from __future__ import annotations

from functools import cache
from typing import Any

import numpy as np

from scutcher.core.data.axis import Axis
from scutcher.core.data.columns import ClassColumn
from scutcher.core.data.table import Table
from scutcher.demo.intake_nir import FIELDS, LOTS, RETTING, YEARS, intake_nir, lot_name

NAME, SEED = "bench", 1888
VARIABLES = (
    "lignin / %",
    "pectin / %",
    "cellulose / %",
    "wax / %",
    "ash / %",
    "moisture / %",
    "fineness / tex",
    "tenacity / cN/tex",
    "elongation / %",
    "L*",
    "a*",
    "b*",
    "sieve / mm",
)
CONSTANT = "sieve / mm"
WRONG_LOT, VALUES_OF = 18, 20  # the bench values of the one are those of the other
GAPS = ((4, 4), (11, 8), (19, 7), (33, 4), (40, 8))  # (lot, variable), from 0


@cache
def bench() -> tuple[Table, dict[str, Any]]:
    """Make the set: 48 lots × 12 variables and a constant one, some gaps, a categorical column."""
    rng = np.random.default_rng(SEED)
    _, intake = intake_nir()
    made = np.array([intake["composition"][lot_name(lot)] for lot in range(LOTS)])
    tested = np.arange(LOTS)
    tested[WRONG_LOT] = VALUES_OF
    cellulose, pectin, lignin, water, wax = 100.0 * made[tested].T
    retting = tested % 4
    noise = rng.normal(size=(LOTS, 12))
    columns = [
        lignin + 0.3 * noise[:, 0],
        pectin + 0.15 * noise[:, 1],
        cellulose + 0.6 * noise[:, 2],
        wax + 0.08 * noise[:, 3],
        1.1 + 0.05 * pectin + 0.15 * noise[:, 4],
        water + 0.2 * noise[:, 5],
        2.2 + 0.09 * pectin + 0.07 * lignin + 0.15 * noise[:, 6],
        62.0 - 0.9 * lignin - 0.6 * pectin + 1.2 * noise[:, 7],
        2.4 + 0.05 * wax + 0.12 * noise[:, 8],
        78.0 - 1.1 * lignin + np.array([0.0, -6.0, 1.5, 3.0])[retting] + 0.8 * noise[:, 9],
        1.0 + np.array([-2.2, 1.1, 0.4, 0.2])[retting] + 0.2 * noise[:, 10],
        16.0 + np.array([3.0, -1.0, 0.5, -0.5])[retting] + 0.5 * noise[:, 11],
        np.full(LOTS, 0.5),
    ]
    values = np.round(np.column_stack(columns), 3)
    for lot, variable in GAPS:
        values[lot, variable] = np.nan
    store = tuple(("barn", "shed", "silo")[place] for place in rng.integers(0, 3, LOTS))
    table = Table(
        values=values,
        axis=Axis(VARIABLES),
        ids=tuple(lot_name(lot) for lot in range(LOTS)),
        name=NAME,
        classes=(
            ClassColumn("retting", tuple(RETTING[lot % 4] for lot in range(LOTS)), RETTING),
            ClassColumn("field", tuple(FIELDS[(lot // 4) % 4] for lot in range(LOTS)), FIELDS),
            ClassColumn("year", tuple(YEARS[(lot // 16) % 2] for lot in range(LOTS)), YEARS),
            ClassColumn("store", store, ("barn", "shed", "silo")),
        ),
        signal="value",
    )
    truth = {
        "set": NAME,
        "seed": SEED,
        "roles": {"id": "sample", "class": ["retting", "field", "year", "store"]},
        "constant": CONSTANT,
        "values_of_another_lot": {lot_name(WRONG_LOT): lot_name(VALUES_OF)},
        "gaps": [[lot_name(lot), VARIABLES[variable]] for lot, variable in GAPS],
        "says_nothing": "store: drawn at random",
        "goes_together": [["lignin / %", "tenacity / cN/tex", "falls"], ["pectin / %", "ash / %", "rises"]],
    }
    return table, truth
