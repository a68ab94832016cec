"""A smooth background under spectra: orthonormal polynomials along the axis."""

from __future__ import annotations

import numpy as np

from scutcher.core.arrays import Floats


def background(p: int, degree: int) -> Floats:
    """Orthonormal Legendre polynomials up to a degree over p channels, (p, degree + 1); none for −1."""
    return _orthonormal(np.linspace(-1.0, 1.0, p), degree)


def background_at(axis: Floats, degree: int) -> Floats:
    """The same over places (p,) of an axis that may be uneven."""
    return _orthonormal(2.0 * (axis - axis[0]) / (axis[-1] - axis[0]) - 1.0, degree)


def _orthonormal(u: Floats, degree: int) -> Floats:
    if degree < 0:
        return np.zeros((len(u), 0))
    found: Floats = np.linalg.qr(np.polynomial.legendre.legvander(u, degree))[0]
    return found
