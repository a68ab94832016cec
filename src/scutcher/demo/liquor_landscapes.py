"""Demo set `liquor-landscapes`: 36 retting liquors, excitation × emission fluorescence, 24 × 60."""

from __future__ import annotations

from functools import cache
from typing import Any

import numpy as np

from scutcher.core.data.axis import Axis
from scutcher.core.data.columns import ClassColumn, PropertyColumn
from scutcher.core.data.table import Table

NAME, SEED, LIQUORS = "liquor-landscapes", 1911, 36
EXCITATION = np.round(np.linspace(240.0, 470.0, 24), 1)
EMISSION = np.round(np.linspace(280.0, 575.0, 60), 1)
# what glows: excitation centre and width, emission centre and width / nm
GLOWS = {
    "protein": ((278.0, 26.0), (340.0, 42.0)),
    "phenolics": ((330.0, 44.0), (430.0, 70.0)),
    "pigment": ((410.0, 40.0), (510.0, 50.0)),
}
STRANGE = 22  # place of the liquor with a dye in it, from 0
DYE = ((455.0, 22.0), (540.0, 28.0))


def _landscape(excitation: tuple[float, float], emission: tuple[float, float]) -> np.ndarray:
    """A hill over excitation × emission, height one, (24, 60)."""
    along = np.exp(-4.0 * np.log(2.0) * ((EXCITATION - excitation[0]) / excitation[1]) ** 2)
    across = np.exp(-4.0 * np.log(2.0) * ((EMISSION - emission[0]) / emission[1]) ** 2)
    return np.outer(along, across)


@cache
def liquor_landscapes() -> tuple[Table, dict[str, Any]]:
    """Make the set: a sample's variables are named `excitation/emission`, row by row of its picture."""
    rng = np.random.default_rng(SEED)
    days = np.repeat(np.arange(12), 3).astype(float)
    amounts = np.column_stack(
        [
            0.4 + 0.9 * np.exp(-(((days - 4.0) / 3.0) ** 2)),
            0.3 + 0.09 * days,
            0.15 + 0.02 * days**1.3,
        ]
    )
    amounts *= 1.0 + 0.06 * rng.normal(size=amounts.shape)
    hills = np.array([_landscape(*glow) for glow in GLOWS.values()])
    values = np.einsum("ij,jkl->ikl", amounts, hills)
    values[STRANGE] += 0.35 * _landscape(*DYE)
    values += 0.006 * rng.normal(size=values.shape)
    labels = tuple(f"{ex:g}/{em:g}" for ex in EXCITATION for em in EMISSION)
    ids = tuple(f"T{place + 1:02d}" for place in range(LIQUORS))
    table = Table(
        values=np.round(1000.0 * values.reshape(LIQUORS, -1), 2),
        axis=Axis(labels),
        ids=ids,
        name=NAME,
        classes=(
            ClassColumn("stage", tuple("early" if d < 4 else "middle" if d < 8 else "late" for d in days)),
        ),
        properties=(PropertyColumn("day", days, "d"),),
        signal="intensity",
    )
    truth = {
        "set": NAME,
        "seed": SEED,
        "roles": {"id": "sample", "class": ["stage"], "property": ["day / d"]},
        "grid": {"rows": "excitation / nm", "columns": "emission / nm", "shape": [24, 60]},
        "glows": {name: {"excitation": glow[0][0], "emission": glow[1][0]} for name, glow in GLOWS.items()},
        "amounts": {name: amounts[place].round(5).tolist() for place, name in enumerate(ids)},
        "strange": {"sample": ids[STRANGE], "excitation": DYE[0][0], "emission": DYE[1][0]},
        "components": 3,
    }
    return table, truth
