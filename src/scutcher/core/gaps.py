"""What is done about missing values before a model is made."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from scutcher.core.arrays import Integers
from scutcher.core.errors import TableError
from scutcher.core.recipe import ModelSettings
from scutcher.core.table import Table


@dataclass(frozen=True, eq=False)
class Usable:
    """The samples and variables that a model sees, and why it does not see the others.

    Attributes
    ----------
    rows, columns : (n,), (p,) int arrays
        Places in the table, rising.
    left_out_rows, left_out_columns : dict of place → reason
    gap_count : int
        Gaps among the samples and variables that were not left out before.
    """

    rows: Integers
    columns: Integers
    left_out_rows: dict[int, str]
    left_out_columns: dict[int, str]
    gap_count: int


def usable_part(table: Table, settings: ModelSettings) -> Usable:
    """Choose the samples and variables without gaps, as the policy says.

    Raises
    ------
    TableError
        Fewer than two samples or two variables are left.
    """
    rows, columns = table.used_rows(), table.used_columns()
    aside, out = dict(table.set_aside), dict(table.left_out)
    gaps = table.gaps()[np.ix_(rows, columns)]
    count = int(gaps.sum())
    if count and settings.gaps == "leave-out-variables":
        shares = gaps.mean(axis=0)
        for place in np.flatnonzero(shares > settings.gap_share):
            out[int(columns[place])] = f"gaps: {int(gaps[:, place].sum())} of {len(rows)} samples"
        kept = shares <= settings.gap_share
        gaps, columns = gaps[:, kept], columns[kept]
    for place in np.flatnonzero(gaps.any(axis=1)):
        aside[int(rows[place])] = f"gaps: {int(gaps[place].sum())} of {len(columns)} variables"
    rows = rows[~gaps.any(axis=1)]
    _check_enough(table, len(rows), len(columns))
    return Usable(rows, columns, aside, out, count)


def _check_enough(table: Table, rows: int, columns: int) -> None:
    n, p = table.shape
    if rows < 2:
        raise TableError(
            f"{table.name}: {_some(rows, 'sample')} of {n} can be used; a component model needs at least 2.",
            "Bring samples back, or choose another way with gaps.",
        )
    if columns < 2:
        raise TableError(
            f"{table.name}: {_some(columns, 'variable')} of {p} can be used; "
            "a component model needs at least 2.",
            "The others are constant, empty or left out; bring in data that vary.",
        )


def _some(count: int, word: str) -> str:
    return f"{count} {word}" if count == 1 else f"{count} {word}s"
