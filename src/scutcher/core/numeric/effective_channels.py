"""How many channels of white noise vary as the noise of these spectra does."""

from __future__ import annotations

import numpy as np

from scutcher.core.arrays import Floats


def effective_channels(squares: Floats, r: int, n: int, p: int) -> float:
    """From what is left after r components, by the moments of a Wishart matrix.

    Parameters
    ----------
    squares : (m,) float array
        Squared singular values, falling; sums of squares, not divided.
    r : int
        Components that are signal.
    n : int
        Independent rows (one less where the data are centred).
    p : int
        Channels.

    Returns
    -------
    float
        1 to p − r; smoothed noise has far fewer than p.
    """
    m, free = min(n, p), n - r
    left = squares[r:m]
    total = float(left.sum())
    if not total > 0.0:
        return float(p - r)
    inverse = (free * float(np.sum(left**2)) / total**2 - 1.0) / (free + 1.0)
    return float(p - r) if inverse <= 0.0 else float(np.clip(1.0 / inverse, 1.0, p - r))
