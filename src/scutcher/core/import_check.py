"""What is looked at when a table comes in: constant and empty variables are named and left out."""

from __future__ import annotations

from dataclasses import replace

import numpy as np

from scutcher.core.arrays import constant_columns
from scutcher.core.table import Table


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
    values = table.values[table.used_rows()]
    empty = np.isnan(values).all(axis=0)
    constant = constant_columns(values) & ~empty
    reasons = dict(table.left_out)
    for column in np.flatnonzero(empty):
        reasons.setdefault(int(column), "empty: no sample has a value")
    for column in np.flatnonzero(constant):
        reasons.setdefault(int(column), "constant: the same value in every sample")
    return replace(table, left_out=reasons)
