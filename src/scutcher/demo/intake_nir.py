"""Demo set `intake-nir`: 48 lots of flax × 3 scans in the near infrared, with faults planted on purpose."""

from __future__ import annotations

from functools import cache
from typing import Any

import numpy as np

from scutcher.core.arrays import Floats
from scutcher.core.data.axis import Axis
from scutcher.core.data.columns import ClassColumn, PropertyColumn
from scutcher.core.data.table import Table
from scutcher.core.frozen import frozen
from scutcher.demo.flax import absorbance

NAME = "intake-nir"
SEED = 1931
LOTS, SCANS = 48, 3
RETTING = ("green straw", "dew-retted", "tank-retted", "enzyme-retted")
FIELDS = ("Aa", "Brede", "Moor", "Nordend")
YEARS = ("2025", "2026")
SUBSTANCES = ("cellulose", "pectin", "lignin", "water", "wax")

# mean share of cellulose, pectin, lignin, wax in the dry matter of each retting class
DRY_MATTER = {
    "green straw": (0.55, 0.150, 0.220, 0.030),
    "dew-retted": (0.66, 0.060, 0.170, 0.020),
    "tank-retted": (0.70, 0.045, 0.135, 0.013),
    "enzyme-retted": (0.76, 0.020, 0.120, 0.017),
}
SPREAD = np.array([0.015, 0.007, 0.009, 0.0022])

WET_LOT, OILY_LOT, MISLABELLED_LOT = 16, 29, 37  # places among the lots, from 0
MISLABELLED_AS = 3  # it is dew-retted and called enzyme-retted
SWAPPED = ((8, 1), (23, 1))  # (lot, scan) and (lot, scan), from 0
SPIKED, SPIKE_CHANNEL = (41, 2), 1606.0
GAPPED, GAP_FROM, GAP_TO = (5, 0), 2012.0, 2030.0
DEAD_CHANNELS = (1318.0, 1866.0)


@frozen(eq=False)
class Lots:
    """What each lot really is: class places, composition (48, 5) by mass, fineness / tex."""

    retting: tuple[int, ...]
    field: tuple[int, ...]
    year: tuple[int, ...]
    composition: Floats
    fineness: Floats


def wavelengths() -> Floats:
    """1100 to 2498 nm every 2 nm."""
    return np.arange(1100.0, 2500.0, 2.0)


def lot_name(lot: int) -> str:
    """`L07`."""
    return f"L{lot + 1:02d}"


def sample_name(lot: int, scan: int) -> str:
    """`L07-2`."""
    return f"{lot_name(lot)}-{scan + 1}"


def _lots(rng: np.random.Generator) -> Lots:
    retting = tuple(lot % 4 for lot in range(LOTS))
    field = tuple((lot // 4) % 4 for lot in range(LOTS))
    year = tuple((lot // 16) % 2 for lot in range(LOTS))
    dry = np.array([DRY_MATTER[RETTING[place]] for place in retting])
    dry = dry + SPREAD * rng.normal(size=dry.shape)
    dry[:, 2] += 0.006 * (np.array(field) - 1.5)  # lignin differs a little from field to field
    water = 0.095 + 0.012 * np.array(year) + 0.008 * rng.normal(size=LOTS)
    water[WET_LOT] = 0.215
    composition = np.empty((LOTS, len(SUBSTANCES)))
    composition[:, [0, 1, 2, 4]] = dry * (1.0 - water[:, np.newaxis])
    composition[:, 3] = water
    fineness = 2.2 + 9.0 * dry[:, 1] + 7.0 * dry[:, 2] + 0.15 * rng.normal(size=LOTS)
    return Lots(retting, field, year, composition, fineness)


def _spectra(lots: Lots, order: list[tuple[int, int]], rng: np.random.Generator) -> Floats:
    """Absorbance (144, 700) in run order: chemistry, packing and path, slope, drift, detector noise."""
    axis = wavelengths()
    pure = np.array([absorbance(substance, axis) for substance in SUBSTANCES])
    oil = absorbance("spindle oil", axis)
    tilt = (axis - axis.mean()) / np.ptp(axis)
    chemistry = lots.composition @ pure
    chemistry[OILY_LOT] += 0.22 * oil
    measured = np.empty((len(order), len(axis)))
    for run, (lot, _) in enumerate(order):
        packing = np.exp(0.11 * rng.normal())  # multiplicative scatter
        offset = 0.28 + 0.05 * rng.normal()  # additive scatter
        slope = 0.10 + 0.012 * rng.normal()
        repeat = 1.0 + 0.004 * rng.normal(size=len(SUBSTANCES))  # another handful of the same lot
        signal = chemistry[lot] + (lots.composition[lot] * (repeat - 1.0)) @ pure
        drift = 0.012 * run / len(order) * (tilt**2 + 0.6 * tilt)
        measured[run] = packing * (signal + slope * tilt) + offset + drift
    return through_detector(measured, axis, rng)


def through_detector(true: Floats, axis: Floats, rng: np.random.Generator) -> Floats:
    """Reflectance with noise that grows at both ends of the detector, then back to absorbance."""
    ends = np.exp(-(axis - axis[0]) / 40.0) + np.exp(-(axis[-1] - axis) / 60.0)
    noise = 1.5e-4 * (1.0 + 6.0 * ends)
    reflectance = 10.0**-true + noise * rng.normal(size=true.shape)
    absorbance: Floats = -np.log10(reflectance)
    return absorbance


def _run_order(rng: np.random.Generator) -> list[tuple[int, int]]:
    """(lot, scan) in the order of the scans: three rounds, each in its own order."""
    order = []
    for scan in range(SCANS):
        order += [(int(lot), scan) for lot in rng.permutation(LOTS)]
    return order


def _plant_faults(spectra: Floats, order: list[tuple[int, int]]) -> None:
    axis = wavelengths()
    row = {key: place for place, key in enumerate(order)}
    first, second = row[SWAPPED[0]], row[SWAPPED[1]]
    spectra[[first, second]] = spectra[[second, first]]
    spectra[row[SPIKED], np.searchsorted(axis, SPIKE_CHANNEL)] += 0.35
    spectra[row[GAPPED], (axis >= GAP_FROM) & (axis <= GAP_TO)] = np.nan
    spectra[:, np.searchsorted(axis, DEAD_CHANNELS)] = 0.0


@cache
def intake_nir() -> tuple[Table, dict[str, Any]]:
    """Make the set.

    Returns
    -------
    Table
        144 samples in run order × 700 channels, absorbance rounded to 1e-6; nothing left out yet.
    dict
        The planted truth, plain data.
    """
    rng = np.random.default_rng(SEED)
    lots = _lots(rng)
    order = _run_order(rng)
    spectra = _spectra(lots, order, rng)
    _plant_faults(spectra, order)
    labels = tuple(str(int(value)) for value in wavelengths())
    written = list(lots.retting)
    written[MISLABELLED_LOT] = MISLABELLED_AS
    lot_of = [lot for lot, _ in order]
    moisture = np.round(100.0 * lots.composition[:, 3] + 0.15 * rng.normal(size=LOTS), 2)
    table = Table(
        values=np.round(spectra, 6),
        axis=Axis(labels, wavelengths(), "wavelength", "nm"),
        ids=tuple(sample_name(lot, scan) for lot, scan in order),
        name=NAME,
        classes=(
            ClassColumn("retting", tuple(RETTING[written[lot]] for lot in lot_of), RETTING),
            ClassColumn("field", tuple(FIELDS[lots.field[lot]] for lot in lot_of), FIELDS),
            ClassColumn("year", tuple(YEARS[lots.year[lot]] for lot in lot_of), YEARS),
        ),
        properties=(
            PropertyColumn("moisture", moisture[lot_of], "%"),
            PropertyColumn("fineness", np.round(lots.fineness, 2)[lot_of], "tex"),
            PropertyColumn("time", np.round(np.arange(len(order)) * 2.5, 1), "min"),
        ),
        replicates=tuple(lot_name(lot) for lot in lot_of),
        signal="absorbance",
    )
    return table, _truth(lots, order, written)


def _truth(lots: Lots, order: list[tuple[int, int]], written: list[int]) -> dict[str, Any]:
    return {
        "set": NAME,
        "seed": SEED,
        "axis": {"quantity": "wavelength", "unit": "nm", "first": 1100, "last": 2498, "step": 2},
        "signal": "absorbance",
        "roles": {
            "id": "sample",
            "replicate": "lot",
            "class": ["retting", "field", "year"],
            "property": ["moisture / %", "fineness / tex", "time / min"],
        },
        "substances": list(SUBSTANCES),
        "composition": {lot_name(lot): lots.composition[lot].round(6).tolist() for lot in range(LOTS)},
        "wet_lot": lot_name(WET_LOT),
        "oily_lot": {"lot": lot_name(OILY_LOT), "bands_nm": [1152, 2012, 2184]},
        "mislabelled_lot": {
            "lot": lot_name(MISLABELLED_LOT),
            "written": RETTING[written[MISLABELLED_LOT]],
            "true": RETTING[lots.retting[MISLABELLED_LOT]],
        },
        "swapped_scans": [sample_name(*SWAPPED[0]), sample_name(*SWAPPED[1])],
        "spiked": {"sample": sample_name(*SPIKED), "channel_nm": SPIKE_CHANNEL},
        "gaps": {"sample": sample_name(*GAPPED), "from_nm": GAP_FROM, "to_nm": GAP_TO, "channels": 10},
        "dead_channels_nm": list(DEAD_CHANNELS),
        "scatter": "every spectrum: + slope 0.10 + 0.012 N over the range, × exp(0.11 N), + 0.28 + 0.05 N",
        "drift": "0.012 absorbance over the run, quadratic and linear in wavelength",
        "run_order": [sample_name(lot, scan) for lot, scan in order],
    }
