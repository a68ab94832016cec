"""What is looked at when a table comes in: constant and empty variables are named and left out."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from scutcher.core.arrays import is_constant, value_span
from scutcher.core.data.table import Table


def leave_out_unusable(table: Table) -> Table:
    """Leave out each variable that cannot tell samples apart, with the reason.

    Parameters
    ----------
    table : Table
        As read; the samples set aside do not count.

    Returns
    -------
    Table
        The same values; `left_out` names the constant and the empty variables as well.
    """
    rows = table.used_rows()
    values = table.values if len(rows) == len(table.values) else table.values[rows]
    low, high = value_span(values)
    empty, constant = np.isnan(low), is_constant(low, high)
    reasons = dict(table.left_out)
    for column in np.flatnonzero(empty):
        reasons.setdefault(int(column), "empty: no sample has a value")
    for column in np.flatnonzero(constant):
        reasons.setdefault(int(column), "constant: the same value in every sample")
    return replace(table, left_out=reasons)
