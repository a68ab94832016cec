"""A chain of treatments over one table: fitted on a training set, applied to it and to new samples."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from typing import Any

import numpy as np

from scutcher.core.data.table import Table
from scutcher.core.frozen import frozen
from scutcher.core.progress import Watch, tell
from scutcher.core.recipes.recipe import Step
from scutcher.core.treatments.base import Learned
from scutcher.core.treatments.support.bridging import (
    Holes,
    find_holes,
    is_even,
    with_holes_filled,
    without_filled,
)
from scutcher.core.treatments.support.requirements import check_needs

CELLS_AT_ONCE = 300_000
"""Slow row-wise treatments are done in parts of so many cells, so that they can be stopped."""


@frozen(eq=False)
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
    whole, holes = _whole(table, step)
    learned = declared.fit(whole, step.parameters) if declared.fit is not None else None
    treated = _applied(whole, step, learned, watch)
    return Treated(treated if holes is None else without_filled(treated, holes), learned)


def _whole(table: Table, step: Step) -> tuple[Table, Holes | None]:
    """For a step that needs an even axis: the few channels that were left out filled in, and which."""
    if "even" not in step.treatment.needs or is_even(table.axis.places()):
        return table, None
    holes = find_holes(table.axis.places())
    return (table, None) if holes is None else (with_holes_filled(table, holes), holes)


def learn_chain(table: Table, steps: Sequence[Step]) -> tuple[Table, tuple[Learned, ...]]:
    """Fit the steps one after the other; the table after the last, and what each learned."""
    learned = []
    for step in steps:
        treated = run_step(table, step)
        table = treated.table
        learned.append(treated.learned)
    return table, tuple(learned)


def apply_step(table: Table, step: Step, learned: Learned) -> Table:
    """Treat new samples with what the training set taught one step."""
    if not step.on:
        return table
    check_needs(step.treatment, table)
    whole, holes = _whole(table, step)
    treated = _applied(whole, step, learned, None)
    return treated if holes is None else without_filled(treated, holes)


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
    return replace(
        table,
        values=np.vstack([part.values for part in parts]),
        axis=last.axis,
        left_out={},
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
