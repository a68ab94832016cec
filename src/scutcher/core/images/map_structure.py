"""Whether a map shows structure or noise: how much a pixel shares with its neighbours."""

from __future__ import annotations

import numpy as np

from scutcher.core.arrays import Floats
from scutcher.core.frozen import frozen

NOISE = 0.05
"""Neighbour agreement below which a map is called noise, however sure it is."""


@frozen
class MapStructure:
    """Agreement of neighbours on a map.

    Attributes
    ----------
    agreement : float
        Moran's I: 1 for a smooth map, about 0 for noise.
    expected, variance : float
        Of noise.
    z : float
        How far the agreement is from that of noise, in its standard deviations; with millions of pixels
        everything is far.
    """

    agreement: float
    expected: float
    variance: float
    z: float

    @property
    def is_noise(self) -> bool:
        """Whether no more than a twentieth is shared, or no more than chance gives in 99 of 100 maps."""
        return self.agreement < NOISE or self.z < 2.326


def map_structure(picture: Floats, breaks: int = 0) -> MapStructure | None:
    """How much neighbours agree.

    Parameters
    ----------
    picture : (rows, columns) float array
        NaN for pixels that do not count.
    breaks : int
        Columns of one of several images side by side: there is no neighbour across their border; 0 for one.

    Returns
    -------
    MapStructure or None
        None where nothing varies or no two neighbours are known.

    References
    ----------
    Moran, Biometrika 37 (1950) 17–23; Cliff & Ord, Spatial Processes (1981).
    """
    known = np.isfinite(picture)
    n = int(known.sum())
    if n < 3:
        return None
    u = np.where(known, picture - picture[known].mean(), 0.0)
    across = known[:, 1:] & known[:, :-1]
    if breaks:
        across[:, breaks - 1 :: breaks] = False
    down = known[1:] & known[:-1]
    pairs = int(across.sum() + down.sum())
    squares = float(np.sum(u * u))
    if pairs == 0 or not squares > 0.0:
        return None
    products = float(np.sum((u[:, 1:] * u[:, :-1])[across]) + np.sum((u[1:] * u[:-1])[down]))
    degree = np.zeros(picture.shape)
    degree[:, 1:] += across
    degree[:, :-1] += across
    degree[1:] += down
    degree[:-1] += down
    w = 2.0 * pairs
    s1, s2 = 2.0 * w, 4.0 * float(np.sum(degree**2))
    expected = -1.0 / (n - 1)
    variance = (n**2 * s1 - n * s2 + 3.0 * w**2) / (w**2 * (n**2 - 1.0)) - expected**2
    agreement = n / pairs * products / squares
    z = (agreement - expected) / np.sqrt(variance) if variance > 0.0 else 0.0
    return MapStructure(agreement, expected, variance, float(z))
