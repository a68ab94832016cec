"""Dividing each spectrum by a figure of its own."""

from __future__ import annotations

import numpy as np

from scutcher.core.arrays import Floats
from scutcher.core.data.table import Table
from scutcher.core.treatments.support.refusals import refuse_divisors


def divided(table: Table, divisors: Floats, what: str, signal: str) -> Table:
    """Divide the samples by their (n,) divisors.

    Raises
    ------
    TableError
        A divisor is not positive; the sample is named, and what the divisor is.
    """
    refuse_divisors(table, divisors, what)
    return table.with_values(table.values * (1.0 / divisors)[:, np.newaxis], f"{table.signal}, {signal}", "")
