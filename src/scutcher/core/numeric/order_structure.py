"""Whether a vector goes smoothly along an order, or as noise does: its neighbours' products."""

from __future__ import annotations

import numpy as np

from scutcher.core.arrays import Floats
from scutcher.core.frozen import frozen

LEAST = 5
"""Places below which nothing can be said."""


@frozen
class OrderStructure:
    """Products of neighbours of a vector of length one.

    Attributes
    ----------
    products : float
        `Σ v_i v_{i+1}`.
    expected, variance : float
        Of a vector of random direction.
    z : float
        How far the products are above what is expected, in standard deviations; one-sided.
    """

    products: float
    expected: float
    variance: float
    z: float


def leading_structure(rows: Floats) -> OrderStructure | None:
    """How smoothly the first component of some rows (m, p) goes along their order; it is not centred."""
    if len(rows) < 2:
        return None
    return order_structure(np.linalg.svd(rows, full_matrices=False)[0][:, 0], False)


def order_structure(values: Floats, centred: bool) -> OrderStructure | None:
    """How smooth a vector is along its places.

    Parameters
    ----------
    values : (m,) float array
    centred : bool
        Whether it is one that sums to zero (scores of centred data): its mean is taken off.

    Returns
    -------
    OrderStructure or None
        None below five places, or where nothing varies.

    References
    ----------
    von Neumann, Ann. Math. Stat. 12 (1941) 367–395.
    """
    m = len(values)
    v = values - values.mean() if centred else values
    length = float(np.linalg.norm(v))
    if m < LEAST or not length > 0.0:
        return None
    v = v / length
    products = float(v[1:] @ v[:-1])
    if not centred:
        expected, variance = 0.0, (m - 1.0) / (m * (m + 2.0))
    else:
        d, b = m - 1.0, -(m - 1.0) / m
        b2 = (m - 1.0) / 2.0 - 2.0 * (m - 1.5) / m + ((m - 1.0) / m) ** 2
        expected, variance = b / d, 2.0 * (b2 - b * b / d) / (d * (d + 2.0))
    return OrderStructure(products, expected, variance, (products - expected) / float(np.sqrt(variance)))
