"""Demo set `drying`: one lot as it dries, 31 spectra, each shifted a little; late a third change begins."""

from __future__ import annotations

from functools import cache
from typing import Any

import numpy as np

from scutcher.core.data.axis import Axis
from scutcher.core.data.columns import ClassColumn, PropertyColumn
from scutcher.core.data.table import Table

NAME, SEED = "drying", 1877
SPECTRA, FIRST, LAST, STEP = 31, 1300.0, 1700.0, 0.8
REFERENCE, REFERENCE_WIDTH = 1386.0, 5.0  # nm: the film of the sample cup, in every spectrum
# centre, full width, height of the two states: water that is free and water that is bound
WET = ((1452.0, 70.0, 0.80), (1405.0, 60.0, 0.18))
LATE, LATE_FROM = ((1512.0, 34.0, 0.065),), 80.0  # wax that comes to the surface, from that minute on
DRY = ((1478.0, 90.0, 0.38), (1560.0, 80.0, 0.30), (1625.0, 60.0, 0.12))


def _bands(axis: np.ndarray, bands: tuple[tuple[float, float, float], ...]) -> np.ndarray:
    """Sum of bells at positions that may differ from row to row."""
    found: np.ndarray = sum(
        height * np.exp(-4.0 * np.log(2.0) * ((axis - centre) / width) ** 2)
        for centre, width, height in bands
    )
    return found


@cache
def drying() -> tuple[Table, dict[str, Any]]:
    """Make the set: 31 samples in the order of time × 501 channels, and the planted truth."""
    rng = np.random.default_rng(SEED)
    channels = round((LAST - FIRST) / STEP) + 1
    axis = np.round(FIRST + STEP * np.arange(channels), 4)
    minutes = 4.0 * np.arange(SPECTRA)
    wet = 1.0 / (1.0 + np.exp((minutes - 52.0) / 11.0))  # share of the wet state
    late = np.clip((minutes - LATE_FROM) / (minutes[-1] - LATE_FROM), 0.0, None)
    shifts = np.round(rng.uniform(-3.0, 3.0, SPECTRA), 3)  # in channels
    places = axis[np.newaxis, :] - STEP * shifts[:, np.newaxis]
    film = ((REFERENCE, REFERENCE_WIDTH, 0.55),)
    spectra = wet[:, np.newaxis] * _bands(places, WET) + (1.0 - wet)[:, np.newaxis] * _bands(places, DRY)
    spectra += late[:, np.newaxis] * _bands(places, LATE)
    spectra += _bands(places, film) + 0.20 + 4e-4 * (places - FIRST)
    spectra += 8e-4 * rng.normal(size=spectra.shape)
    states = tuple("wet" if share > 0.9 else "dry" if share < 0.1 else "drying" for share in wet)
    table = Table(
        values=np.round(spectra, 6),
        axis=Axis(tuple(f"{value:g}" for value in axis), axis, "wavelength", "nm"),
        ids=tuple(f"D{place + 1:02d}" for place in range(SPECTRA)),
        name=NAME,
        classes=(ClassColumn("state", states, ("wet", "drying", "dry")),),
        properties=(
            PropertyColumn("time", np.asarray(minutes, dtype=np.float64), "min"),
            PropertyColumn("water", np.round(6.0 + 24.0 * wet + 0.1 * rng.normal(size=SPECTRA), 2), "%"),
        ),
        signal="absorbance",
    )
    truth = {
        "set": NAME,
        "seed": SEED,
        "roles": {"id": "sample", "class": ["state"], "property": ["time / min", "water / %"]},
        "reference_peak_nm": REFERENCE,
        "channel_nm": STEP,
        "shift_channels": dict(zip(table.ids, shifts.tolist(), strict=True)),
        "shift_sign": "positive: the spectrum stands further to the right than it should",
        "share_of_wet_state": dict(zip(table.ids, wet.round(6).tolist(), strict=True)),
        "states": 2,
        "half_gone_min": 52.0,
        "third_change": {
            "band_nm": LATE[0][0],
            "width_nm": LATE[0][1],
            "height": LATE[0][2],
            "begins_after_min": LATE_FROM,
            "share": dict(zip(table.ids, late.round(6).tolist(), strict=True)),
        },
    }
    return table, truth
