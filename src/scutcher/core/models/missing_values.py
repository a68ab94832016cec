"""What is done about missing values before a model is made."""

from __future__ import annotations

from collections.abc import Mapping

import numpy as np

from scutcher.core.arrays import Floats, Integers
from scutcher.core.computed_once import computed_once
from scutcher.core.data.constant_variables import constant_variables
from scutcher.core.data.row_places import RowPlaces
from scutcher.core.data.table import Table
from scutcher.core.errors import TableError
from scutcher.core.frozen import frozen
from scutcher.core.recipes.recipe import ModelSettings
from scutcher.core.words import count_of

LEAVE_GAPS = ("fill-mean", "fill-median", "nipals", "em")
"""Policies under which samples with gaps stay."""


@frozen(eq=False)
class Usable:
    """The samples and variables that a model sees, and why it does not see the others.

    Attributes
    ----------
    rows, columns : (n,), (p,) int arrays
        Places in the table, rising.
    left_out_rows, left_out_columns : dict of place → reason
    gap_count : int
        Gaps among the samples and variables that were not left out before.
    gap_rows : tuple of int
        The samples of the table that have them.
    """

    rows: Integers
    columns: Integers
    left_out_rows: dict[int, str]
    left_out_columns: dict[int, str]
    gap_count: int
    gap_rows: tuple[int, ...] = ()

    @computed_once
    def places(self) -> Mapping[int, int]:
        """From a row of the table to its row in the model."""
        return RowPlaces(self.rows)


def usable_part(table: Table, settings: ModelSettings, least: int = 2) -> Usable:
    """Choose the samples and variables that the policy lets in.

    Those that leave gaps in leave nothing out but what is nothing but gaps. A model needs two samples and two
    variables; what is only treated may be one.

    Raises
    ------
    TableError
        Fewer than `least` samples or variables are left.
    """
    rows, columns = table.used_rows(), table.used_columns()
    aside, out = dict(table.set_aside), dict(table.left_out)
    if not table.has_gaps:
        _check_enough(table, len(rows), len(columns), least)
        return Usable(rows, columns, aside, out, 0)
    gaps = table.gaps()[np.ix_(rows, columns)]
    count = int(gaps.sum())
    with_gaps = tuple(int(row) for row in rows[gaps.any(axis=1)])
    most = settings.gap_share if settings.gaps == "leave-out-variables" else 1.0 - 1e-12
    if settings.gaps != "leave-out-samples":
        shares = gaps.mean(axis=0) if len(rows) else np.zeros(len(columns))
        for place in np.flatnonzero(shares > most):
            out[int(columns[place])] = f"gaps: {int(gaps[:, place].sum())} of {len(rows)} samples"
        gaps, columns = gaps[:, shares <= most], columns[shares <= most]
    lost = gaps.all(axis=1) if settings.gaps in LEAVE_GAPS else gaps.any(axis=1)
    for place in np.flatnonzero(lost):
        aside[int(rows[place])] = f"gaps: {int(gaps[place].sum())} of {len(columns)} variables"
    rows = rows[~lost]
    _check_enough(table, len(rows), len(columns), least)
    return Usable(rows, columns, aside, out, count, with_gaps)


def check_usable(table: Table, settings: ModelSettings) -> None:
    """Refuse a table of which no model can be made as it comes in.

    Raises
    ------
    TableError
        Fewer than two samples can be used, or fewer than two variables that vary.
    """
    usable = usable_part(table, settings)
    varying = len(np.setdiff1d(usable.columns, constant_variables(table)))
    if varying < 2:
        raise _too_few_variables(table, varying)


def fills(values: Floats, policy: str) -> Floats | None:
    """What gaps of each variable are filled with, (p,), learned from a training set; None: not filled."""
    if policy == "fill-mean":
        mean: Floats = np.nanmean(values, axis=0)
        return mean
    if policy == "fill-median":
        median: Floats = np.nanmedian(values, axis=0)
        return median
    return None


def filled(table: Table, fill: Floats | None) -> Table:
    """The table with its gaps filled; the same one where there are none or nothing fills them."""
    if fill is None or not table.has_gaps:
        return table
    return table.with_values(np.where(table.gaps(), fill, table.values))


def _check_enough(table: Table, rows: int, columns: int, least: int) -> None:
    n = len(table.values)
    if rows < least:
        raise TableError(
            f"{table.name}: {count_of(rows)} of {n} can be used; a component model needs at least 2.",
            "Bring samples back, or choose another way with gaps.",
        )
    if columns < least:
        raise _too_few_variables(table, columns)


def _too_few_variables(table: Table, columns: int) -> TableError:
    return TableError(
        f"{table.name}: {count_of(columns, 'variable')} of {table.shape[1]} can be used; "
        "a component model needs at least 2.",
        "The others are constant, empty or left out; bring in more.",
    )
