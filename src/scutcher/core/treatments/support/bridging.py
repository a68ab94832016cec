"""An even axis from which a few channels were left out: filled in for a step that needs it even."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from scutcher.core.arrays import Booleans, Floats
from scutcher.core.data.axis import Axis, headers_of
from scutcher.core.data.table import Table
from scutcher.core.frozen import frozen

UNEVEN = 0.01
"""Spacing that differs by less than this share of a step is even: positions are rounded in files."""

WIDEST = 3
"""Channels in a row that may be missing; over a wider gap nothing is interpolated."""


@frozen(eq=False)
class Holes:
    """Where channels are missing.

    Attributes
    ----------
    places : (p + h,) float array
        The whole even axis.
    there : (p + h,) bool array
        Which of its channels the table has.
    """

    places: Floats
    there: Booleans


def find_holes(places: Floats) -> Holes | None:
    """The even axis that these channels are most of; None where there is none.

    Parameters
    ----------
    places : (p,) float array, rising or falling, p ≥ 5
    """
    steps = np.diff(places)
    if len(steps) < 4:
        return None
    step = float(np.median(steps))
    if step == 0.0:
        return None
    counts = np.round(steps / step).astype(int)
    fits = np.abs(steps - counts * step).max() <= UNEVEN * abs(step) * counts.max()
    if not fits or counts.min() < 1 or counts.max() > WIDEST + 1:
        return None
    numbers = np.concatenate([[0], np.cumsum(counts)])
    whole = np.linspace(places[0], places[-1], numbers[-1] + 1)
    there = np.zeros(len(whole), dtype=bool)
    there[numbers] = True
    whole[numbers] = places
    return Holes(whole, there)


def is_even(places: Floats) -> bool:
    """Whether neighbouring channels all lie equally far apart."""
    steps = np.diff(places)
    return not steps.size or bool(np.abs(steps - steps.mean()).max() <= UNEVEN * abs(float(steps.mean())))


def with_holes_filled(table: Table, holes: Holes) -> Table:
    """The table over the whole axis; each missing channel by the cubic through its nearest four.

    Exact for polynomials up to the third degree, so that a derivative does not see the place.
    """
    n = len(table.ids)
    values = np.empty((n, len(holes.places)))
    values[:, holes.there] = table.values
    have = np.flatnonzero(holes.there)
    for missing in np.flatnonzero(~holes.there):
        first = int(np.clip(np.searchsorted(have, missing) - 2, 0, len(have) - 4))
        near = have[first : first + 4]
        weights = np.ones(4)
        for i in range(4):
            for j in range(4):
                if i != j:
                    weights[i] *= (missing - near[j]) / (near[i] - near[j])
        values[:, missing] = values[:, near] @ weights
    labels = np.empty(len(holes.places), dtype=object)
    labels[holes.there] = table.axis.labels
    labels[~holes.there] = headers_of(holes.places[~holes.there])
    axis = Axis(tuple(labels), holes.places, table.axis.quantity, table.axis.unit)
    return replace(table, values=values, axis=axis, left_out={})


def without_filled(table: Table, holes: Holes) -> Table:
    """A result over the whole axis, or over a part of it, without the channels that were filled."""
    filled = holes.places[~holes.there]
    step = abs(float(holes.places[1] - holes.places[0]))
    places = table.axis.places()
    near = np.abs(places[:, np.newaxis] - filled).min(axis=1) <= 1e-6 * step
    kept = np.flatnonzero(~near)
    return replace(table, values=np.ascontiguousarray(table.values[:, kept]), axis=table.axis.take(kept))
