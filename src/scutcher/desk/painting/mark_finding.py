"""Which mark is meant: those that a line encloses, and the next one where a key points."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import Qt

from scutcher.charts.emphasis import FRONT, HIDDEN
from scutcher.core.arrays import Booleans, Floats, Integers

WAYS: dict[Qt.Key, tuple[int, int]] = {
    Qt.Key.Key_Left: (-1, 0),
    Qt.Key.Key_Right: (1, 0),
    Qt.Key.Key_Up: (0, -1),
    Qt.Key.Key_Down: (0, 1),
}
"""Across and down: of marks, of the cells of a map, of those of a table."""

IN_ORDER = {Qt.Key.Key_PageUp: -1, Qt.Key.Key_PageDown: 1}
ASIDE = 2.0
"""A mark that lies off the way counts as farther by so many times its distance from the way."""

Way = tuple[int, int] | int


def way_of(key: Qt.Key) -> Way | None:
    """Where a key points: across and down, or a step in the order of the samples; None for other keys."""
    return WAYS.get(key) or IN_ORDER.get(key)


def next_mark(across: Floats, down: Floats, strength: Integers, at: int | None, way: Way) -> int | None:
    """The mark that a key goes to from another, (m,) pixels; the same where there is none that way.

    Without a mark to begin from it is the first picked one, else the one nearest to the middle of all.
    """
    shown = np.flatnonzero((strength != HIDDEN) & np.isfinite(across) & np.isfinite(down))
    if not len(shown):
        return None
    if at is None or at not in shown:
        return _first(across, down, shown, strength)
    if isinstance(way, int):
        return int(shown[(int(np.searchsorted(shown, at)) + way) % len(shown)])
    right, below = across[shown] - across[at], down[shown] - down[at]
    along = right * way[0] + below * way[1]
    aside = np.abs(right * way[1]) + np.abs(below * way[0])
    far = np.where(along > 0.0, along + ASIDE * aside, np.inf)
    nearest = int(far.argmin())
    return int(shown[nearest]) if np.isfinite(far[nearest]) else at


def _first(across: Floats, down: Floats, shown: Integers, strength: Integers) -> int:
    front = shown[strength[shown] == FRONT]
    if len(front):
        return int(front[0])
    middle = np.median(across[shown]), np.median(down[shown])
    return int(shown[np.hypot(across[shown] - middle[0], down[shown] - middle[1]).argmin()])


def inside_polygon(x: Floats, y: Floats, corners: Floats) -> Booleans:
    """Which points are inside a closed polygon, by the parity of crossings. (m,), (m,), (c, 2) → (m,)."""
    near = np.flatnonzero(
        (x >= corners[:, 0].min())
        & (x <= corners[:, 0].max())
        & (y >= corners[:, 1].min())
        & (y <= corners[:, 1].max())
    )
    found = np.zeros(len(x), dtype=bool)
    found[near] = _inside(x[near], y[near], corners)
    return found


def _inside(x: Floats, y: Floats, corners: Floats) -> Booleans:
    """By edges: each looks only at the points of its own heights, which stand together once sorted."""
    order = np.argsort(y)
    x, y = x[order], y[order]
    inside = np.zeros(len(x), dtype=bool)
    following = np.roll(corners, -1, axis=0)
    low = np.searchsorted(y, np.minimum(corners[:, 1], following[:, 1]))
    high = np.searchsorted(y, np.maximum(corners[:, 1], following[:, 1]))
    for (x0, y0), (x1, y1), start, end in zip(corners, following, low, high, strict=True):
        if start < end:
            inside[start:end] ^= x[start:end] < (x1 - x0) * (y[start:end] - y0) / (y1 - y0) + x0
    found = np.empty(len(x), dtype=bool)
    found[order] = inside
    return found
