"""Demo set `belt-scan`: an image of fibre on a belt, 96 × 64 pixels × 160 bands."""

from __future__ import annotations

from functools import cache
from typing import Any

import numpy as np

from scutcher.core.data.axis import Axis
from scutcher.core.data.columns import ClassColumn, PropertyColumn
from scutcher.core.data.table import Table
from scutcher.demo.flax import absorbance

NAME, SEED = "belt-scan", 1962
WIDE, TALL, BANDS = 96, 64, 160
STUFFS = ("belt", "fibre", "shive", "bark", "twine")
TWINE_AT = ((70, 10), (88, 22))  # from, to: pixel columns and rows


@cache
def belt_scan() -> tuple[Table, dict[str, Any]]:
    """Make the set: a sample for each pixel, row by row, with its place as properties."""
    rng = np.random.default_rng(SEED)
    axis = np.round(np.linspace(1100.0, 2400.0, BANDS), 2)
    stuff = _layout(rng)
    pure = pure_spectra(axis)
    amounts = 0.85 + 0.3 * rng.random((TALL, WIDE))
    spectra = pure[stuff] * amounts[:, :, np.newaxis]
    spectra = (
        0.92 * spectra
        + 0.02 * np.roll(spectra, 1, axis=0)
        + 0.02 * np.roll(spectra, -1, axis=0)
        + 0.02 * np.roll(spectra, 1, axis=1)
        + 0.02 * np.roll(spectra, -1, axis=1)
    )  # light spreads to the neighbours
    spectra += 0.004 * rng.normal(size=spectra.shape)
    rows, columns = np.divmod(np.arange(WIDE * TALL), WIDE)
    table = Table(
        values=np.round(spectra.reshape(WIDE * TALL, BANDS), 4),
        axis=Axis(tuple(f"{value:g}" for value in axis), axis, "wavelength", "nm"),
        ids=tuple(f"y{row:02d}x{column:02d}" for row, column in zip(rows, columns, strict=True)),
        name=NAME,
        classes=(ClassColumn("stuff", tuple(STUFFS[place] for place in stuff.ravel()), STUFFS),),
        properties=(
            PropertyColumn("x", columns.astype(float), "px"),
            PropertyColumn("y", rows.astype(float), "px"),
        ),
        signal="absorbance",
    )
    truth = {
        "set": NAME,
        "seed": SEED,
        "roles": {"id": "sample", "class": ["stuff"], "property": ["x / px", "y / px"]},
        "pixels": [WIDE, TALL],
        "pixels_of": {name: int((stuff == place).sum()) for place, name in enumerate(STUFFS)},
        "twine_from_to_px": [list(TWINE_AT[0]), list(TWINE_AT[1])],
    }
    return table, truth


def stuff_map() -> np.ndarray:
    """What lies at each pixel, (64, 96), by the place of its name in STUFFS."""
    return _layout(np.random.default_rng(SEED))


def _layout(rng: np.random.Generator) -> np.ndarray:
    """What lies at each pixel, (64, 96): a mat of fibre with pieces of shive and bark, and the twine."""
    y, x = np.mgrid[0:TALL, 0:WIDE]
    stuff = np.where((np.abs(y - 32 - 4 * np.sin(x / 14.0)) < 22), 1, 0)
    for kind, pieces in ((2, 14), (3, 7)):
        for _ in range(pieces):
            cx, cy, turn = rng.uniform(6, 90), rng.uniform(16, 48), rng.uniform(0, np.pi)
            along = (x - cx) * np.cos(turn) + (y - cy) * np.sin(turn)
            across = -(x - cx) * np.sin(turn) + (y - cy) * np.cos(turn)
            stuff[((along / 5.0) ** 2 + (across / 1.6) ** 2 < 1.0) & (stuff > 0)] = kind
    (x1, y1), (x2, y2) = TWINE_AT
    share = np.clip(((x - x1) * (x2 - x1) + (y - y1) * (y2 - y1)) / ((x2 - x1) ** 2 + (y2 - y1) ** 2), 0, 1)
    away = np.hypot(x - x1 - share * (x2 - x1), y - y1 - share * (y2 - y1))
    stuff[away < 0.9] = 4
    found: np.ndarray = stuff
    return found


def pure_spectra(axis: np.ndarray) -> np.ndarray:
    """The spectrum of each stuff, (5, 160)."""
    parts = {name: absorbance(name, axis) for name in ("cellulose", "pectin", "lignin", "water", "wax")}
    twine = sum(
        height * np.exp(-4.0 * np.log(2.0) * ((axis - centre) / width) ** 2)
        for centre, width, height in ((1210, 30, 0.25), (1730, 22, 0.5), (2310, 24, 0.6))
    )
    return np.array(
        [
            np.full(len(axis), 0.55),
            0.25 + 0.75 * parts["cellulose"] + 0.03 * parts["pectin"] + 0.1 * parts["water"],
            0.30 + 0.45 * parts["cellulose"] + 0.30 * parts["lignin"] + 0.1 * parts["water"],
            0.38
            + 0.30 * parts["cellulose"]
            + 0.20 * parts["lignin"]
            + 0.25 * parts["pectin"]
            + 0.2 * parts["wax"],
            0.20 + twine,
        ]
    )
