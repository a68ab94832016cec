"""Demo set `tank-log`: one retting tank, 240 readings × 9 sensors, with a fault that no sensor shows."""

from __future__ import annotations

from functools import cache
from typing import Any

import numpy as np

from scutcher.core.data.axis import Axis
from scutcher.core.data.columns import ClassColumn, PropertyColumn
from scutcher.core.data.table import Table

NAME, SEED = "tank-log", 1904
READINGS, TRAINING = 240, 120
FAULT_FROM, FAULT_TO = 168, 192  # readings, from 0; the end is not in it
SENSORS = (
    "temperature, top / °C",
    "temperature, middle / °C",
    "temperature, bottom / °C",
    "pH",
    "conductivity / mS/cm",
    "oxygen / mg/L",
    "turbidity / NTU",
    "level / cm",
    "inflow / L/min",
)


@cache
def tank_log() -> tuple[Table, dict[str, Any]]:
    """Make the set.

    Two things move the tank: the warmth of the day and the age of the liquor; all sensors follow them.
    During the fault the pump stands still: the bottom stays colder and the oxygen higher than the others
    say, by less than either sensor moves on an ordinary day.
    """
    rng = np.random.default_rng(SEED)
    hours = np.arange(READINGS) * 0.5
    warmth = np.sin(2.0 * np.pi * hours / 24.0) + 0.3 * _wander(rng)
    age = 0.8 * np.sin(2.0 * np.pi * hours / 61.0 + 1.0) + 0.6 * _wander(rng)
    noise = rng.normal(size=(READINGS, len(SENSORS)))
    values = np.column_stack(
        [
            31.0 + 1.6 * warmth + 0.08 * noise[:, 0],
            30.6 + 1.5 * warmth + 0.08 * noise[:, 1],
            30.1 + 1.4 * warmth + 0.08 * noise[:, 2],
            6.1 - 0.25 * age - 0.02 * warmth + 0.015 * noise[:, 3],
            3.4 + 0.45 * age + 0.03 * noise[:, 4],
            2.2 - 0.35 * warmth - 0.30 * age + 0.03 * noise[:, 5],
            140.0 + 22.0 * age + 4.0 * warmth + 2.0 * noise[:, 6],
            182.0 - 1.2 * warmth + 0.4 * age + 0.25 * noise[:, 7],
            12.0 + 0.9 * warmth - 0.5 * age + 0.12 * noise[:, 8],
        ]
    )
    fault = np.zeros(READINGS)
    fault[FAULT_FROM:FAULT_TO] = np.minimum(1.0, np.arange(1, FAULT_TO - FAULT_FROM + 1) / 4.0)
    # towards the middle of what each sensor does: nothing leaves its ordinary range
    values[:, 2] -= 0.75 * fault * np.sign(values[:, 2] - 30.1)
    values[:, 5] += 0.28 * fault * np.sign(2.2 - values[:, 5])
    table = Table(
        values=np.round(values, 3),
        axis=Axis(SENSORS),
        ids=tuple(f"R{place + 1:03d}" for place in range(READINGS)),
        name=NAME,
        classes=(
            ClassColumn(
                "stretch", tuple("calm" if place < TRAINING else "watched" for place in range(READINGS))
            ),
        ),
        properties=(PropertyColumn("time", np.asarray(hours, dtype=np.float64), "h"),),
        signal="reading",
    )
    truth = {
        "set": NAME,
        "seed": SEED,
        "roles": {"id": "sample", "class": ["stretch"], "property": ["time / h"]},
        "training": [table.ids[0], table.ids[TRAINING - 1]],
        "fault": {"from": table.ids[FAULT_FROM], "to": table.ids[FAULT_TO - 1]},
        "fault_sensors": [SENSORS[2], SENSORS[5]],
        "components": 2,
    }
    return table, truth


def _wander(rng: np.random.Generator) -> np.ndarray:
    """A slow random walk that comes back, about one in size."""
    steps, found = 0.25 * rng.normal(size=READINGS), np.zeros(READINGS)
    for place in range(1, READINGS):
        found[place] = 0.95 * found[place - 1] + steps[place]
    return found
