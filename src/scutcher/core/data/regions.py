"""Regions of an axis: stretches from one position to another, in the unit of the axis."""

from __future__ import annotations

import numpy as np

from scutcher.core.arrays import Booleans
from scutcher.core.data.axis import Axis
from scutcher.core.errors import TableError
from scutcher.core.words import decimal_mark, shown

Region = tuple[float, float]
Regions = tuple[Region, ...]


def inside(axis: Axis, regions: Regions) -> Booleans:
    """Which channels lie in one of the regions, ends included.

    Parameters
    ----------
    axis : Axis
        Ordered, or of mixed variables: then the regions count variables from 1.
    regions : pairs of positions, in either order, in the unit of the axis

    Returns
    -------
    (p,) bool array

    Raises
    ------
    TableError
        A region holds no channel.
    """
    places = axis.places()
    found = np.zeros(len(places), dtype=bool)
    for first, last in regions:
        low, high = min(first, last), max(first, last)
        within = (places >= low) & (places <= high)
        if not within.any():
            raise TableError(
                f"The region {shown(low)}–{shown(high)} {axis.unit}".rstrip()
                + f" holds no channel; the axis runs from {shown(places.min())} to {shown(places.max())}.",
                "Move the region onto the axis.",
            )
        found |= within
    return found


def inside_or_all(axis: Axis, regions: Regions) -> Booleans:
    """As `inside`; without regions, every channel."""
    return inside(axis, regions) if regions else np.ones(len(axis), dtype=bool)


def regions_text(regions: Regions, unit: str = "") -> str:
    """Regions as one says them: `1100–1880, 1960–2500 nm`."""
    between = ", " if decimal_mark() == "." else "; "
    text = between.join(f"{shown(min(r))}–{shown(max(r))}" for r in regions)
    return f"{text} {unit}".rstrip()
