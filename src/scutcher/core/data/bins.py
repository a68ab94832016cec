"""Runs of channels put together into bins."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from scutcher.core.arrays import Floats, Integers
from scutcher.core.data.axis import Axis, headers_of
from scutcher.core.data.table import Table


def binned(values: Floats, starts: Integers, mean: bool) -> Floats:
    """Sum or mean of each run of channels, (n, p) → (n, len(starts)); a gap makes a gap of its bin.

    Parameters
    ----------
    starts : (b,) int array
        First channel of each run, rising from 0; the last run goes to the end.
    """
    sums: Floats = np.add.reduceat(values, starts, axis=1)
    if mean:
        sums *= 1.0 / np.diff(np.append(starts, values.shape[1]))
    return sums


def binned_table(table: Table, starts: Integers, by: str) -> Table:
    """A table of bins, each standing at the mean position of its channels."""
    places = binned(table.axis.places()[np.newaxis, :], starts, mean=True)[0]
    axis = Axis(headers_of(places), places, table.axis.quantity, table.axis.unit)
    return replace(table, values=binned(table.values, starts, by == "mean"), axis=axis)
