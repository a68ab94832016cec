"""Near-infrared absorbance of what flax straw is made of: sums of overlapping bands of invented strength."""

from __future__ import annotations

import numpy as np

from scutcher.core.arrays import Floats

# centre / nm, full width at half height / nm, strength / absorbance units
BANDS: dict[str, tuple[tuple[float, float, float], ...]] = {
    "cellulose": (
        (1218, 70, 0.05),
        (1367, 60, 0.07),
        (1490, 95, 0.22),
        (1590, 90, 0.10),
        (1780, 70, 0.09),
        (1930, 60, 0.10),
        (2100, 95, 0.46),
        (2276, 60, 0.34),
        (2336, 42, 0.40),
        (2488, 70, 0.36),
    ),
    "pectin": (
        (1200, 60, 0.04),
        (1440, 80, 0.20),
        (1730, 60, 0.12),
        (1915, 70, 0.24),
        (2080, 90, 0.30),
        (2254, 60, 0.32),
        (2390, 70, 0.22),
    ),
    "lignin": (
        (1140, 45, 0.09),
        (1417, 50, 0.16),
        (1446, 45, 0.14),
        (1672, 45, 0.26),
        (1690, 40, 0.12),
        (2132, 55, 0.24),
        (2270, 40, 0.22),
        (2460, 60, 0.24),
    ),
    "water": ((1190, 90, 0.08), (1452, 105, 0.62), (1780, 110, 0.05), (1934, 85, 1.25), (2490, 180, 0.35)),
    "wax": (
        (1212, 34, 0.22),
        (1394, 44, 0.12),
        (1416, 40, 0.10),
        (1726, 22, 0.50),
        (1764, 24, 0.34),
        (2310, 22, 0.72),
        (2350, 24, 0.52),
    ),
    "spindle oil": ((1152, 20, 0.10), (2012, 26, 0.30), (2184, 24, 0.22)),
}


def absorbance(substance: str, wavelengths: Floats) -> Floats:
    """The spectrum of a pure substance.

    Parameters
    ----------
    substance : a key of BANDS
    wavelengths : (p,) float array
        In nm.

    Returns
    -------
    (p,) float array
        Absorbance units, Gaussian bands.
    """
    total = np.zeros(len(wavelengths))
    for centre, width, strength in BANDS[substance]:
        total += strength * np.exp(-4.0 * np.log(2.0) * ((wavelengths - centre) / width) ** 2)
    return total
