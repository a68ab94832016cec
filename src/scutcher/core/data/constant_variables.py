"""What is looked at when a table comes in: empty variables are left out; dead ones, if somebody says so."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import replace

import numpy as np

from scutcher.core.arrays import FIRST_LOOK, Floats, Integers, constant_columns, value_span
from scutcher.core.data.axis import Axis
from scutcher.core.data.table import Table

EMPTY = "empty: no sample has a value"
DEAD = "dead: the same value in every sample"


def leave_out_empty(table: Table) -> Table:
    """Leave out each variable without a value, with the reason.

    Parameters
    ----------
    table : Table
        As read; the samples set aside do not count.

    Returns
    -------
    Table
        The same values; `left_out` names the empty variables as well.
    """
    low, _ = value_span(_used(table))
    reasons = dict(table.left_out)
    for column in np.flatnonzero(np.isnan(low)):
        reasons.setdefault(int(column), EMPTY)
    return replace(table, left_out=reasons)


def leave_out_dead(table: Table) -> Table:
    """Leave out the empty variables and those that are constant: then no treatment sees them either."""
    whole = leave_out_empty(table)
    reasons = dict(whole.left_out)
    for column in constant_variables(whole):
        reasons.setdefault(int(column), DEAD)
    return replace(whole, left_out=reasons)


def constant_variables(table: Table) -> Integers:
    """The variables in use that have one value in every sample: treatments see them, the model does not."""
    constant = constant_columns(_used(table))
    constant[list(table.left_out)] = False
    return np.flatnonzero(constant)


MAKE_CHANNELS = ("bin-equal", "bin-valleys", "resample")
"""Treatments whose channels are others, also where a header is the same."""


def constant_after(
    part: Table, treated: Axis, methods: Iterable[str], rows: Integers | None = None
) -> Integers:
    """The treated channels that had one value in every sample before they were treated.

    They took part in the treatments as measured; the model leaves them out.

    Parameters
    ----------
    part : the samples of the model, before treatment
    treated : the axis after it
    methods : of the treatments that ran
    rows : those samples that count, where not all do
    """
    constant = constant_columns(part.values if rows is None else part.values[rows[:FIRST_LOOK]])
    if rows is not None and constant.any():  # the few that may be are looked at in all rows
        maybe = np.flatnonzero(constant)
        constant[maybe] = constant_columns(part.values[np.ix_(rows, maybe)])
    if not constant.any() or any(method in MAKE_CHANNELS for method in methods):
        return np.zeros(0, np.intp)
    if treated.labels == part.axis.labels:
        return np.flatnonzero(constant)
    names = {part.axis.labels[place] for place in np.flatnonzero(constant).tolist()}
    return np.array([place for place, label in enumerate(treated.labels) if label in names], dtype=np.intp)


def _used(table: Table) -> Floats:
    rows = table.used_rows()
    return table.values if len(rows) == len(table.values) else table.values[rows]
