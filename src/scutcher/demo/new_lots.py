"""Demo set `new-lots`: 20 later spectra for a model of `intake-nir`, three of them strange."""

from __future__ import annotations

from functools import cache
from typing import Any

import numpy as np

from scutcher.core.data.axis import Axis
from scutcher.core.data.columns import ClassColumn
from scutcher.core.data.table import Table
from scutcher.demo.flax import absorbance
from scutcher.demo.intake_nir import DRY_MATTER, RETTING, SPREAD, SUBSTANCES, through_detector, wavelengths

NAME, SEED, SPECTRA = "new-lots", 1951, 20
TWINE, MOULDY, SHIFTED = 4, 11, 16  # places, from 0


@cache
def new_lots() -> tuple[Table, dict[str, Any]]:
    """Make the set: plastic twine in one, mould on one, one from an instrument 9 nm off."""
    rng = np.random.default_rng(SEED)
    axis = wavelengths()
    retting = np.arange(SPECTRA) % 4
    dry = np.array([DRY_MATTER[RETTING[place]] for place in retting])
    dry = dry + 0.6 * SPREAD * rng.normal(size=dry.shape)
    water = 0.10 + 0.006 * rng.normal(size=SPECTRA)
    shares = np.column_stack(
        [dry[:, :3] * (1 - water)[:, np.newaxis], water, dry[:, 3] * (1.0 - water)]
    )  # cellulose, pectin, lignin, water, wax
    spectra = np.empty((SPECTRA, len(axis)))
    tilt = (axis - axis.mean()) / np.ptp(axis)
    for place in range(SPECTRA):
        seen = axis - 9.0 if place == SHIFTED else axis
        pure = np.array([absorbance(substance, seen) for substance in SUBSTANCES])
        signal = shares[place] @ pure
        if place == TWINE:
            signal = signal + 0.09 * _bands(axis, ((1210, 22), (1730, 16), (2310, 16), (2350, 18)))
        if place == MOULDY:
            signal = signal + 0.05 * _bands(axis, ((1540, 60), (2055, 50), (2170, 45)))
        packing = np.exp(0.11 * rng.normal())
        slope = 0.10 + 0.012 * rng.normal()
        spectra[place] = packing * (signal + slope * tilt) + 0.28 + 0.05 * rng.normal()
    ids = tuple(f"N{place + 1:02d}" for place in range(SPECTRA))
    table = Table(
        values=np.round(through_detector(spectra, axis, rng), 6),
        axis=Axis(tuple(str(int(value)) for value in axis), axis, "wavelength", "nm"),
        ids=ids,
        name=NAME,
        classes=(ClassColumn("retting", tuple(RETTING[place] for place in retting), RETTING),),
        signal="absorbance",
    )
    truth = {
        "set": NAME,
        "seed": SEED,
        "roles": {"id": "sample", "class": ["retting"]},
        "strange": {
            ids[TWINE]: "plastic twine: bands at 1210, 1730, 2310, 2350 nm",
            ids[MOULDY]: "mould: bands at 1540, 2055, 2170 nm",
            ids[SHIFTED]: "measured on an instrument whose axis is 9 nm off",
        },
    }
    return table, truth


def _bands(axis: np.ndarray, bands: tuple[tuple[float, float], ...]) -> np.ndarray:
    found: np.ndarray = sum(
        np.exp(-4.0 * np.log(2.0) * ((axis - centre) / width) ** 2) for centre, width in bands
    )
    return found
