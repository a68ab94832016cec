"""Where a class is dense on a plane: the outline that holds a share of it."""

from __future__ import annotations

import numpy as np

from scutcher.core.arrays import Floats

GRID, FEWEST, MOST = 56, 5, 2000


def density_outlines(points: Floats, level: float) -> list[Floats]:
    """Outlines of the region of highest density that holds a share of the points.

    A Gaussian kernel with the widths of Silverman's rule (Density Estimation, Chapman & Hall 1986, eq. 4.14),
    along the principal axes of the points; of more than 2,000 points every so many-th.

    Parameters
    ----------
    points : (n, 2) float array
    level : float
        The share.

    Returns
    -------
    list of (m, 2) float arrays
        Closed; none for fewer than five points, or points on a line.
    """
    some = points[:: -(-len(points) // MOST)] if len(points) else points
    n = len(some)
    if n < FEWEST:
        return []
    middle = some.mean(axis=0)
    spread, axes = np.linalg.eigh(np.cov(some, rowvar=False))
    if spread[0] <= 1e-12 * spread[1]:
        return []
    widths = np.sqrt(spread) * n ** (-1.0 / 6.0)
    turned = (some - middle) @ axes / widths
    ends = [np.linspace(turned[:, a].min() - 3.0, turned[:, a].max() + 3.0, GRID) for a in (0, 1)]
    kernels = [np.exp(-0.5 * (ends[a][:, np.newaxis] - turned[:, a]) ** 2) for a in (0, 1)]
    density = kernels[0] @ kernels[1].T  # (x, y)
    own = np.exp(-0.5 * ((turned[:, np.newaxis] - turned) ** 2).sum(axis=2)).sum(axis=1)
    from contourpy import contour_generator

    lines = contour_generator(ends[0], ends[1], density.T).lines(float(np.quantile(own, 1.0 - level)))
    return [(np.asarray(line) * widths) @ axes.T + middle for line in lines if len(line) > 3]
