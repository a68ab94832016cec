"""The table that most of the awkward files hold: twelve lots of flax, one property, 25 channels."""

import numpy as np

IDS = tuple(f"L{row + 1:02d}" for row in range(12))
KINDS = ("dew", "tank", "green") * 4
MOISTURE = np.array([8.1, 9.4, 7.7, 8.8, 10.2, 9.9, 7.9, 8.4, 9.1, 8.6, 10.7, 9.3])
NM = np.arange(1100.0, 1600.0, 20.0)
_HEIGHT = np.array([0.41, 0.55, 0.38, 0.47, 0.61, 0.52, 0.44, 0.5, 0.57, 0.49, 0.63, 0.45])
_BAND = np.exp(-0.5 * ((NM - 1450) / 40) ** 2)
VALUES = np.round(
    0.3 + 1e-4 * (NM - 1100) + _HEIGHT[:, None] * _BAND + 0.02 * MOISTURE[:, None] * (NM > 1300), 4
)
BENCH = np.round(
    np.column_stack([60 + 3 * _HEIGHT * 10, 2.0 + MOISTURE / 9, 400 * _HEIGHT, 0.02 + MOISTURE / 1e3]), 4
)
BENCH_NAMES = ("cellulose / %", "pectin / %", "force / N", "ash / g/g")
