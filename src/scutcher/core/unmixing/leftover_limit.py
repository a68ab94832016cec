"""What noise alone leaves over of a spectrum: a limit that a missing shape does not lift."""

from __future__ import annotations

import numpy as np

from scutcher.core.arrays import Floats
from scutcher.core.distances.joint_distance import scale_and_freedom
from scutcher.core.distances.limits import Limit, box_limit, chi_square_quantile
from scutcher.core.numeric.order_structure import order_structure

FEWEST = 12
"""Spectra below which the quartiles say little."""

PAST = 2.326
"""z above which a component of what is left over is no noise."""

STANDS_OUT = 3.0
"""Times the middle singular value that such a component is larger than."""


def leftover_limit(residuals: Floats, ordered: bool, level: float = 0.95) -> Limit:
    """Limit of the sums of squares left over, (n,).

    Of spectra in an order the large components of what is left over that go along it are taken away
    first: a shape that is missing is one of them. From the rest a scaled χ² by median and interquartile
    range. Without an order, or of fewer than twelve spectra, Box's of all that is left over.

    Parameters
    ----------
    residuals : (n, p) float array
        In order.

    References
    ----------
    Box, Ann. Math. Stat. 25 (1954) 290–302.
    """
    n = len(residuals)
    q = np.einsum("ij,ij->i", residuals, residuals)
    if not ordered or n < FEWEST:
        return box_limit(q, level)
    u, s, _ = np.linalg.svd(residuals, full_matrices=False)
    k, large = 0, STANDS_OUT * float(np.median(s))
    while k < n // 3 and s[k] > large and _goes_along(u[:, k]):
        k += 1
    noise = ((u[:, k:] * s[k:]) ** 2).sum(axis=1) * n / (n - k)
    found = scale_and_freedom(noise, "robust") or scale_and_freedom(noise, "moments")
    if found is None:
        return box_limit(q, level)
    scale, freedom = found
    value = scale * chi_square_quantile(freedom, level) / freedom
    words = f"without {k} that go{'es' * (k == 1)} along the order" if k else ""
    return Limit(level, "box", value, words)


def _goes_along(scores: Floats) -> bool:
    found = order_structure(scores, False)
    return found is not None and found.z > PAST
