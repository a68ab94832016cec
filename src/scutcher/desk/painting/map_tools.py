"""Which pixels a line, a stroke or a click on a map means."""

from __future__ import annotations

from itertools import pairwise
from typing import Literal

import numpy as np

from scutcher.core.arrays import Booleans, Floats

Tool = Literal["box", "lasso", "polygon", "brush", "flood"]

STROKE = 1.5
"""Pixels that a brush reaches to each side."""

ALIKE = 0.08
"""Share of the range between the 2nd and 98th percentile that neighbours may differ by, to be flooded."""


def inside_line(points: Floats, shape: tuple[int, int]) -> Booleans:
    """Pixels whose middle lies inside a closed line of corners (x, y), by crossings. (rows, columns)."""
    rows, columns = shape
    found = np.zeros(shape, dtype=bool)
    top, bottom = max(int(points[:, 1].min()), 0), min(int(points[:, 1].max()) + 1, rows)
    x = np.arange(columns) + 0.5
    one, other = points, np.roll(points, -1, axis=0)
    for row in range(top, bottom):
        y = row + 0.5
        crossing = (one[:, 1] <= y) != (other[:, 1] <= y)
        if crossing.any():
            a, b = one[crossing], other[crossing]
            at = a[:, 0] + (y - a[:, 1]) * (b[:, 0] - a[:, 0]) / (b[:, 1] - a[:, 1])
            found[row] = (x[:, np.newaxis] < at).sum(axis=1) % 2 == 1
    return found


def inside_stroke(points: Floats, shape: tuple[int, int], reach: float = STROKE) -> Booleans:
    """Pixels whose middle lies within reach of a line through points (x, y)."""
    found = np.zeros(shape, dtype=bool)
    for a, b in pairwise(points):
        low, high = np.minimum(a, b) - reach, np.maximum(a, b) + reach
        left, right = max(int(low[0]), 0), min(int(high[0]) + 1, shape[1])
        top, bottom = max(int(low[1]), 0), min(int(high[1]) + 1, shape[0])
        if left >= right or top >= bottom:
            continue
        y, x = np.mgrid[top:bottom, left:right] + 0.5
        found[top:bottom, left:right] |= away_from(x, y, a, b) <= reach
    return found


def away_from(x: Floats, y: Floats, a: Floats, b: Floats) -> Floats:
    """How far points lie from the straight line that ends in a and b, both (2,); in the shape of x and y."""
    length = float(((b - a) ** 2).sum())
    share = 0.0 if length == 0.0 else ((x - a[0]) * (b[0] - a[0]) + (y - a[1]) * (b[1] - a[1])) / length
    share = np.clip(share, 0.0, 1.0)
    away: Floats = np.hypot(x - a[0] - share * (b[0] - a[0]), y - a[1] - share * (b[1] - a[1]))
    return away


def corners_of_box(points: Floats, beyond: float = 0.0) -> Floats:
    """The four corners of the box from the first to the last of some points, so much wider on all sides."""
    low, high = points[[0, -1]].min(axis=0) - beyond, points[[0, -1]].max(axis=0) + beyond
    return np.array([low, (high[0], low[1]), high, (low[0], high[1])])


def like_neighbours(values: Floats, cell: tuple[int, int]) -> Booleans:
    """The connected pixels around a cell (column, row) whose value is like its own."""
    from scipy.ndimage import label

    column, row = cell
    known = np.isfinite(values)
    found = np.zeros(values.shape, dtype=bool)
    if not known[row, column]:
        return found
    low, high = np.quantile(values[known], (0.02, 0.98))
    reach = ALIKE * float(high - low)
    labels, _ = label(known & (np.abs(values - values[row, column]) <= reach), structure=np.ones((3, 3)))
    found[:] = labels == labels[row, column]
    return found
