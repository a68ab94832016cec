"""What is worth telling of a table that was brought in, each with the way to act on it."""

from __future__ import annotations

from collections import Counter

import numpy as np

from scutcher.core.arrays import Floats
from scutcher.core.data.constant_variables import DEAD, constant_variables
from scutcher.core.data.missing_marks import missing_marks
from scutcher.core.data.replicates import repeats
from scutcher.core.data.table import Table
from scutcher.core.frozen import frozen
from scutcher.core.words import count_of, first_of, shown

SATURATED_SAMPLES, MOST_TIES = 5, 0.1
MANY_LEVELS = 0.25


@frozen
class Finding:
    """A sentence about the data.

    Attributes
    ----------
    text : str
        What was found, with its place.
    columns : tuple of int
        The variables that it is about, to be selected or left out.
    rows : tuple of int
        The samples that it is about, to be picked.
    act : "leave-out", "pick", "replicate", "gaps" or ""
        What one would do about it.
    reason : str
        The reason that stays with variables left out, the column for "replicate", or the number for "gaps".
    """

    text: str
    columns: tuple[int, ...] = ()
    rows: tuple[int, ...] = ()
    act: str = ""
    reason: str = ""


def findings(table: Table) -> tuple[Finding, ...]:
    """Look a table over."""
    found = [*_left_out(table), *_gaps(table), *_marks(table), *_duplicates(table), *_saturated(table)]
    return (*found, *_classes(table), *_replicates(table), *_units(table))


def _names(table: Table, columns: tuple[int, ...]) -> str:
    shown = ", ".join(table.axis.name(column) for column in columns[:4])
    return shown + (f" and {len(columns) - 4} more" if len(columns) > 4 else "")


def _left_out(table: Table) -> list[Finding]:
    found = []
    constant = tuple(constant_variables(table).tolist())
    if constant and len(table.used_rows()) > 1:
        text = f"{len(constant)} constant, measured all the same: {_names(table, constant)}. Dead channels?"
        found.append(Finding(text, constant, act="leave-out", reason=DEAD))
    for word in ("dead", "empty"):
        columns = tuple(c for c, reason in sorted(table.left_out.items()) if reason.startswith(word))
        if columns:
            found.append(Finding(f"{len(columns)} {word}, left out: {_names(table, columns)}", columns))
    return found


def _gaps(table: Table) -> list[Finding]:
    gaps = table.gaps()[:, table.used_columns()]
    rows = tuple(int(row) for row in np.flatnonzero(gaps.any(axis=1)))
    if not rows:
        return []
    shown = first_of([table.ids[row] for row in rows])
    where = f"{count_of(int(gaps.sum()), 'gap')} in {count_of(rows)}"
    return [Finding(f"{where} ({shown}), left out of the model", rows=rows, act="pick")]


def _marks(table: Table) -> list[Finding]:
    """Numbers that may stand for missing values."""
    return [
        Finding(mark.text(table), mark.columns, mark.rows, act="gaps", reason=repr(mark.value))
        for mark in missing_marks(table)
    ]


def _duplicates(table: Table) -> list[Finding]:
    """Variables with the same values as an earlier one."""
    used = table.used_columns()
    seen: dict[bytes, int] = {}
    twice = []
    for column in used.tolist():
        content = np.ascontiguousarray(table.values[:, column]).tobytes()
        if content in seen:
            twice.append(column)
        else:
            seen[content] = column
    if not twice:
        return []
    columns = tuple(twice)
    text = f"{count_of(columns, 'copy')} of another variable, exactly: {_names(table, columns)}"
    return [Finding(text, columns, act="leave-out", reason="repeats another variable")]


def _saturated(table: Table) -> list[Finding]:
    """Channels that several samples leave at exactly one highest value, while the others hardly repeat.

    The ceiling need not be the highest value of the table: each detector has its own.
    """
    if not table.axis.ordered:
        return []
    used = np.setdiff1d(table.used_columns(), constant_variables(table))
    if not len(used):
        return []
    values = table.values[:, used]
    tops = np.fmax.reduce(values, axis=0)
    many = np.flatnonzero((values == tops).sum(axis=0) >= SATURATED_SAMPLES)
    found = [place for place in many.tolist() if _ties_below(values[:, place], tops[place]) <= MOST_TIES]
    if not found:
        return []
    columns = tuple(int(used[place]) for place in found)
    ceilings = [shown(top, ".6g") for top in sorted({float(f"{tops[place]:.6g}") for place in found})]
    at = " or ".join(ceilings) if len(ceilings) < 4 else f"{ceilings[0]} to {ceilings[-1]}"
    where = f"{count_of(columns, 'saturated channel')}, many samples at exactly {at}"
    text = f"{where}: {_names(table, columns)}"
    return [Finding(text, columns, act="leave-out", reason="saturated")]


def _ties_below(channel: Floats, top: float) -> float:
    """Share of the values below a ceiling that repeat another one: high where values are counts."""
    below = channel[channel < top]
    return 1.0 - len(np.unique(below)) / len(below) if len(below) else 0.0


def _classes(table: Table) -> list[Finding]:
    found = []
    for column in table.classes:
        missing = sum(not value for value in column.values)
        if missing:
            rows = tuple(row for row, value in enumerate(column.values) if not value)
            text = f"{column.name} is not filled in for {count_of(missing)}"
            found.append(Finding(text, rows=rows, act="pick"))
        levels, samples = len(set(column.values)), len(column.values)
        if table.replicates is None and MANY_LEVELS * samples < levels < samples:
            text = f"{column.name} has {levels} levels for {samples} samples: replicates?"
            found.append(Finding(text, act="replicate", reason=column.name))
    return found


def _replicates(table: Table) -> list[Finding]:
    if table.replicates is None:
        return []
    sizes = Counter(len(rows) for rows in repeats(table.replicates))
    words = ", ".join(f"{count} × {size}" for size, count in sorted(sizes.items()))
    return [Finding(f"Replicates (samples × repeats): {words}; they stay together in validation")]


def _units(table: Table) -> list[Finding]:
    """Mixed variables whose spreads are far apart: the reason for scaling."""
    if table.axis.ordered:
        return []
    used = table.used_columns()
    values = table.values[:, used]
    known = np.isfinite(values).sum(axis=0) > 1
    if known.sum() < 2:
        return []
    spreads = np.nanstd(values[:, known], axis=0)
    low, high = int(spreads.argmin()), int(spreads.argmax())
    if spreads[low] <= 0.0 or spreads[high] / spreads[low] < 20.0:
        return []
    names = [table.axis.name(int(used[known][place])) for place in (high, low)]
    ratio = spreads[high] / spreads[low]
    return [
        Finding(f"{names[0]} varies {shown(ratio, '.3g')} × as much as {names[1]}: each is scaled to SD 1")
    ]
