"""Sentences that refuse values, each naming the sample and the variable."""

from __future__ import annotations

import numpy as np

from scutcher.core.arrays import Booleans, Floats
from scutcher.core.data.table import Table
from scutcher.core.errors import TableError
from scutcher.core.words import shown


def refuse_values(table: Table, wrong: Booleans, problem: str, remedy: str) -> None:
    """Refuse a table of which some values cannot be used; names the first. `wrong` has shape (n, p).

    Raises
    ------
    TableError
    """
    if wrong.any():
        row, column = (int(place) for place in np.argwhere(wrong)[0])
        value = table.values[row, column]
        raise TableError(
            f"{problem}: sample {table.ids[row]} has {shown(value, '.4g')} at {table.axis.name(column)}.",
            remedy,
        )


def refuse_divisors(table: Table, divisors: Floats, what: str) -> None:
    """Refuse samples whose divisor is not positive; names the first. `divisors` has shape (n,).

    Raises
    ------
    TableError
    """
    wrong = np.flatnonzero(divisors <= 0.0)
    if wrong.size:
        row = int(wrong[0])
        raise TableError(
            f"{what} of sample {table.ids[row]} is {shown(divisors[row], '.4g')}; it must be "
            f"positive to divide by.",
            "Set the sample aside, or take off the baseline first.",
        )
