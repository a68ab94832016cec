"""How alike spectra are in shape, whatever their size."""

from __future__ import annotations

import numpy as np

from scutcher.core.arrays import Floats


def spectral_angle(spectra: Floats, reference: Floats) -> Floats:
    """The angle of each spectrum to a reference, in radians, 0 to π; NaN where either is zero.

    Parameters
    ----------
    spectra : (m, p) float array
        Treated, not centred.
    reference : (p,) float array

    References
    ----------
    Kruse et al., Remote Sens. Environ. 44 (1993) 145–163; as 2·atan2(‖u − v‖, ‖u + v‖), which keeps small
    angles (Kahan).
    """
    lengths = np.linalg.norm(spectra, axis=1)
    length = float(np.linalg.norm(reference))
    found = np.full(len(spectra), np.nan)
    known = lengths > 0.0
    if length > 0.0 and known.any():
        u = spectra[known] / lengths[known, np.newaxis]
        v = reference / length
        found[known] = 2.0 * np.arctan2(np.linalg.norm(u - v, axis=1), np.linalg.norm(u + v, axis=1))
    return found
