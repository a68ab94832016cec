"""What is worth telling of a table that was brought in, each with the way to act on it."""

from __future__ import annotations

from collections import Counter
from dataclasses import dataclass

import numpy as np

from scutcher.core.replicates import repeats
from scutcher.core.table import Table

SATURATED_SAMPLES = 5
MANY_LEVELS = 0.25


@dataclass(frozen=True)
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
    act : "leave-out", "pick", "replicate" or ""
        What one would do about it.
    reason : str
        The reason that stays with variables left out, or the column for "replicate".
    """

    text: str
    columns: tuple[int, ...] = ()
    rows: tuple[int, ...] = ()
    act: str = ""
    reason: str = ""


def findings(table: Table) -> tuple[Finding, ...]:
    """Look a table over."""
    found = [*_left_out(table), *_gaps(table), *_duplicates(table), *_saturated(table)]
    return (*found, *_classes(table), *_replicates(table), *_units(table))


def _names(table: Table, columns: tuple[int, ...]) -> str:
    shown = ", ".join(table.axis.name(column) for column in columns[:4])
    return shown + (f" and {len(columns) - 4} more" if len(columns) > 4 else "")


def _left_out(table: Table) -> list[Finding]:
    found = []
    for word in ("constant", "empty"):
        columns = tuple(c for c, reason in sorted(table.left_out.items()) if reason.startswith(word))
        if columns:
            found.append(Finding(f"{len(columns)} {word}, left out: {_names(table, columns)}", columns))
    return found


def _gaps(table: Table) -> list[Finding]:
    gaps = table.gaps()[:, table.used_columns()]
    rows = tuple(int(row) for row in np.flatnonzero(gaps.any(axis=1)))
    if not rows:
        return []
    shown = ", ".join(table.ids[row] for row in rows[:3]) + (" …" if len(rows) > 3 else "")
    where = f"{len(rows)} samples" if len(rows) > 1 else "1 sample"
    text = f"{int(gaps.sum())} gaps in {where} ({shown}), left out of the model"
    return [Finding(text, rows=rows, act="pick")]


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
    text = f"{len(columns)} repeat another variable exactly: {_names(table, columns)}"
    return [Finding(text, columns, act="leave-out", reason="repeats another variable")]


def _saturated(table: Table) -> list[Finding]:
    """Channels in which several samples stand at the very maximum of the whole table."""
    if not table.axis.ordered:
        return []
    values = table.values[:, table.used_columns()]
    top = float(np.nanmax(values)) if np.isfinite(values).any() else 0.0
    at_top = (values == top).sum(axis=0)
    columns = tuple(int(table.used_columns()[c]) for c in np.flatnonzero(at_top >= SATURATED_SAMPLES))
    if not columns:
        return []
    where = _names(table, columns)
    text = f"{len(columns)} channels look saturated (many samples at exactly {top:.6g}): {where}"
    return [Finding(text, columns, act="leave-out", reason="saturated")]


def _classes(table: Table) -> list[Finding]:
    found = []
    for column in table.classes:
        missing = sum(not value for value in column.values)
        if missing:
            rows = tuple(row for row, value in enumerate(column.values) if not value)
            found.append(
                Finding(f"{column.name} is not filled in for {missing} samples", rows=rows, act="pick")
            )
        sizes = Counter(column.values)
        repeated = len(sizes) < len(column.values)
        if table.replicates is None and repeated and len(sizes) > MANY_LEVELS * len(column.values):
            text = f"{column.name} has {len(sizes)} levels for {len(column.values)} samples: replicates?"
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
    return [Finding(f"{names[0]} varies {ratio:.3g} × as much as {names[1]}: each is scaled to SD 1")]
