"""A chain of treatments over one table: fitted on a training set, applied to it and to new samples."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from scutcher.core.needs import check_needs
from scutcher.core.progress import Watch, tell
from scutcher.core.recipe import Step
from scutcher.core.table import Table
from scutcher.core.treatments.base import Learned

CELLS_AT_ONCE = 300_000
"""Slow row-wise treatments are done in parts of so many cells, so that they can be stopped."""


@dataclass(frozen=True, eq=False)
class Treated:
    """The table after one step, and what the step learned (None for a row-wise one)."""

    table: Table
    learned: Learned


def run_step(table: Table, step: Step, watch: Watch | None = None) -> Treated:
    """Fit one treatment on a table and apply it to the same table; a step that is off does nothing.

    Raises
    ------
    TableError
        The table lacks what the treatment needs.
    RecipeError
        A parameter does not suit the table.
    Stopped
        The watcher wants no more of it.
    """
    if not step.on:
        return Treated(table, None)
    declared = step.treatment
    check_needs(declared, table)
    learned = declared.fit(table, step.parameters) if declared.fit is not None else None
    return Treated(_applied(table, step, learned, watch), learned)


def apply_step(table: Table, step: Step, learned: Learned) -> Table:
    """Treat new samples with what the training set taught one step."""
    if not step.on:
        return table
    check_needs(step.treatment, table)
    return _applied(table, step, learned, None)


def apply_chain(table: Table, steps: Sequence[Step], learned: Sequence[Learned]) -> Table:
    """Treat new samples with what the training set taught each step."""
    for step, lesson in zip(steps, learned, strict=True):
        table = apply_step(table, step, lesson)
    return table


def _applied(table: Table, step: Step, learned: Learned, watch: Watch | None) -> Table:
    """Apply at once, or slow row-wise work in parts."""
    declared = step.treatment
    n, p = table.shape
    rows = max(1, CELLS_AT_ONCE // max(p, 1))
    if not declared.slow or n <= rows:
        return declared.apply(table, step.parameters, learned)
    parts = []
    for start in range(0, n, rows):
        tell(watch, start / n)
        part = table.take(np.arange(start, min(start + rows, n)))
        parts.append(declared.apply(part, step.parameters, learned))
    last = parts[-1]
    whole = table.take(np.arange(n), np.arange(0))
    return Table(
        values=np.vstack([part.values for part in parts]),
        axis=last.axis,
        ids=whole.ids,
        name=whole.name,
        classes=whole.classes,
        properties=whole.properties,
        replicates=whole.replicates,
        signal=last.signal,
        signal_unit=last.signal_unit,
    )


def learned_to_plain(learned: Learned) -> dict[str, Any] | None:
    """What a step learned as lists of numbers and words, for a file."""
    if learned is None:
        return None
    return {k: v.tolist() if isinstance(v, np.ndarray) else list(v) for k, v in learned.items()}


def learned_from_plain(plain: Any) -> Learned:
    """The way back; lists of words become tuples, lists of numbers arrays."""
    if plain is None:
        return None
    return {
        name: tuple(value) if value and isinstance(value[0], str) else np.asarray(value, dtype=np.float64)
        for name, value in plain.items()
    }
