"""Headers that are numbers in disguise, `1100 nm`, `X1100`, `abs_1100`: the axis that they make."""

from __future__ import annotations

import re
from collections import defaultdict
from collections.abc import Sequence

import numpy as np

from scutcher.core.arrays import Floats, in_strict_order
from scutcher.core.frozen import frozen

NUMBERED = re.compile(
    r"(?P<before>.*?)(?P<space>[ _\-.:@(\[]*)"
    r"(?P<number>(?<!\d)(?<!\d[.,])[+\-−]?\d+(?:[.,]\d+)?(?:[eE][+\-]?\d+)?)"
    r"[ _]*(?P<after>[^\d]*(?:-1|⁻¹|\^-1|\^\(-1\)|/cm|\)|\])?[^\d]*)"
)
UNITS = {
    "nm": ("wavelength", "nm"), "nanometer": ("wavelength", "nm"), "nanometers": ("wavelength", "nm"),
    "nanometres": ("wavelength", "nm"), "um": ("wavelength", "µm"), "µm": ("wavelength", "µm"),
    "μm": ("wavelength", "µm"), "micron": ("wavelength", "µm"), "microns": ("wavelength", "µm"),
    "cm-1": ("wavenumber", "cm⁻¹"), "cm^-1": ("wavenumber", "cm⁻¹"), "cm⁻¹": ("wavenumber", "cm⁻¹"),
    "1/cm": ("wavenumber", "cm⁻¹"), "cm**-1": ("wavenumber", "cm⁻¹"), "/cm": ("wavenumber", "cm⁻¹"),
    "min": ("time", "min"), "s": ("time", "s"), "sec": ("time", "s"), "h": ("time", "h"),
    "m/z": ("m/z", ""), "mz": ("m/z", ""), "da": ("m/z", ""), "amu": ("m/z", ""), "th": ("m/z", ""),
    "ppm": ("chemical shift", "ppm"), "hz": ("frequency", "Hz"), "khz": ("frequency", "kHz"),
    "mhz": ("frequency", "MHz"), "ghz": ("frequency", "GHz"), "thz": ("frequency", "THz"),
    "ev": ("energy", "eV"), "kev": ("energy", "keV"), "mev": ("energy", "meV"),
    "°": ("angle", "°"), "deg": ("angle", "°"), "°c": ("temperature", "°C"), "degc": ("temperature", "°C"),
    "k": ("temperature", "K"), "mm": ("depth", "mm"), "px": ("channel", ""), "mv": ("potential", "mV"),
    "v": ("potential", "V"), "t": ("field", "T"), "mt": ("field", "mT"), "g": ("field", "G"),
}  # fmt: skip
"""Quantity and unit by what is written beside the numbers."""

QUANTITIES = (
    ("raman", "shift", "cm⁻¹"), ("wavenumber", "wavenumber", "cm⁻¹"), ("wavelength", "wavelength", ""),
    ("lambda", "wavelength", ""), ("wave length", "wavelength", ""), ("wave number", "wavenumber", "cm⁻¹"),
    ("retention", "time", ""), ("elution", "time", ""), ("time", "time", ""), ("shift", "shift", ""),
    ("frequency", "frequency", ""), ("freq", "frequency", ""), ("m/z", "m/z", ""), ("mz", "m/z", ""),
    ("mass", "m/z", ""), ("theta", "2θ", "°"), ("2θ", "2θ", "°"), ("angle", "angle", ""),
    ("energy", "energy", ""), ("channel", "channel", ""), ("pixel", "channel", ""), ("depth", "depth", ""),
    ("potential", "potential", ""), ("temperature", "temperature", ""), ("wl", "wavelength", ""),
    ("wn", "wavenumber", "cm⁻¹"), ("wvl", "wavelength", ""), ("nm", "wavelength", "nm"),
    ("cm-1", "wavenumber", "cm⁻¹"), ("ppm", "chemical shift", "ppm"),
)  # fmt: skip
"""Quantity and its usual unit by words in a name, the first that fits."""

COUNTERS = ("ch", "channel", "chan", "pixel", "px", "band", "point", "pt", "bin", "index", "scan")
LEAST, MANY = 5, 20
SMOOTH = 0.3
"""Von Neumann's ratio along the rows below which neighbouring columns are neighbours in nature."""


@frozen
class Family:
    """Columns whose headers are numbers with the same text around.

    Attributes
    ----------
    columns : tuple of int
    positions : (m,) float array
    quantity, unit : str
    counter : bool
        Whether the numbers only count the columns.
    """

    columns: tuple[int, ...]
    positions: Floats
    quantity: str
    unit: str
    counter: bool


def unit_named(text: str) -> tuple[str, str] | None:
    """Quantity and unit of a text like `nm`, `(cm-1)` or `[min]`."""
    bare = text.strip().strip("()[]{}<> ,;:/_").lower() if text.strip() != "°" else "°"
    return UNITS.get(bare) or UNITS.get(text.strip().strip("()[] ").lower())


def quantity_named(text: str) -> tuple[str, str]:
    """Quantity and unit of an axis by its title, such as `Wavelength (nm)` or `wavenumber / cm-1`."""
    title = text.strip()
    parts = re.fullmatch(r"(.*?)\s*(?:[(\[](.+)[)\]]|/\s+(.+)|\s/\s*(.+)|,\s*(.+))", title)
    unit = next((part for part in (parts.groups()[1:] if parts else ()) if part), "")
    by_unit = unit_named(unit) if unit else unit_named(title)
    lower = title.lower()
    for word, quantity, usual in QUANTITIES:
        if re.search(rf"(?<![a-z]){re.escape(word)}", lower):
            return quantity, by_unit[1] if by_unit else unit.strip() or usual
    if by_unit:
        return by_unit
    return "", unit.strip()


MEASURES = re.compile(
    r"(?:%|‰|p[hHpP][mMbB]?|°[CF]|[kmcµμn]?(?:g|m|l|L|s|N|Pa|J|W|V|A|S|mol|M|Da|Hz|bar|K)|min|h|d|rpm|"
    r"wt ?%|vol ?%|a\.?u\.?)[²³23]?"
    r"(?:[ /·*](?:[kmcµμnd]?(?:g|m|l|L|s|N|Pa|J|W|V|A|S|mol|bar|K|h)|min|d|100 ?g)[²³23⁻¹-]*)*"
)
"""Units of what is measured on a sample, or in a process."""


def names_a_quantity(text: str) -> bool:
    """Whether a name has a unit, `temperature / °C`, `flow (l/min)`, or is pH."""
    if text.strip().lower() in (
        "ph",
        "ph value",
        "temperature",
        "pressure",
        "flow",
        "conductivity",
        "humidity",
    ):
        return True
    parts = re.fullmatch(r".*?(?:\s*[(\[](.+)[)\]]|\s/\s*(.+))", text.strip())
    unit = next((part for part in parts.groups() if part), "") if parts else ""
    return MEASURES.fullmatch(unit.strip()) is not None


def sounds_like_axis(text: str) -> bool:
    """Whether a column header names an axis: a wavelength, a shift, a time, or just x."""
    return text.strip().lower() in ("x", "axis", "x-axis", "x axis") or bool(quantity_named(text)[0])


def families(header: Sequence[str]) -> list[Family]:
    """The families of numbered headers with at least five in strict order, the largest first."""
    found: dict[tuple[str, str], list[tuple[int, float, bool]]] = defaultdict(list)
    for column, name in enumerate(header):
        cut = NUMBERED.fullmatch(name.strip())
        if cut is None or not (cut["before"] or cut["after"]):
            continue
        number = float(cut["number"].replace(",", ".").replace("−", "-"))
        sign = cut["number"][0] in "+-−" and bool(cut["before"])
        key = cut["before"].strip().lower(), cut["after"].strip().lower()
        found[key].append((column, abs(number) if sign else number, sign))
    made = [_family(key, members) for key, members in found.items() if len(members) >= LEAST]
    return sorted((family for family in made if family is not None), key=lambda f: -len(f.columns))


def _family(key: tuple[str, str], members: list[tuple[int, float, bool]]) -> Family | None:
    positions = np.array([number for _, number, _ in members])
    if not in_strict_order(positions):
        return None
    before, after = key
    counter = bool((np.abs(np.diff(positions)) == 1.0).mean() > 0.8) and positions.min() in (0.0, 1.0)
    in_front = unit_named(before) if len(before.strip("([ ")) > 1 else None  # s1, s2 are no seconds
    quantity, unit = unit_named(after) or in_front or quantity_named(before)
    if counter and (unit_named(after) is None):
        quantity, unit = ("channel" if before in COUNTERS else ""), ""
    return Family(tuple(column for column, _, _ in members), positions, quantity, unit, counter)


def is_axis(family: Family, values: Floats) -> bool:
    """Whether a family is an ordered axis and not so many variables that were numbered.

    Parameters
    ----------
    family : the headers
    values : (n, m) float array
        Some rows of its columns.
    """
    if family.quantity and not family.counter:
        return True
    least = MANY if family.counter and not family.quantity else 2 * LEAST
    return len(family.columns) >= least and smoothness(values) < SMOOTH


def smoothness(values: Floats) -> float:
    """Von Neumann's ratio along the rows, the median over them: near 0 for signals, 1 for unordered."""
    values = values[np.isfinite(values).all(axis=1)]
    if not values.size or values.shape[1] < 3:
        return 1.0
    with np.errstate(over="ignore", invalid="ignore"):  # values that no model takes are read all the same
        spread = values.var(axis=1)
        rough = (np.diff(values, axis=1) ** 2).mean(axis=1) / 2.0
    known = (spread > 0) & np.isfinite(spread) & np.isfinite(rough)
    return float(np.median(rough[known] / spread[known])) if known.any() else 1.0
