"""A chain of treatments over one table: fitted on a training set, applied to it and to new samples."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from scutcher.core.recipe import Step
from scutcher.core.table import Table
from scutcher.core.treatments.base import Learned, check_needs


@dataclass(frozen=True, eq=False)
class Treated:
    """The table after one step, and what the step learned (None for a row-wise one)."""

    table: Table
    learned: Learned


def run_step(table: Table, step: Step) -> Treated:
    """Fit one treatment on a table and apply it to the same table; a step that is off does nothing.

    Raises
    ------
    TableError
        The table lacks what the treatment needs.
    """
    if not step.on:
        return Treated(table, None)
    declared = step.treatment
    check_needs(declared, table)
    learned = declared.fit(table, step.parameters) if declared.fit is not None else None
    return Treated(declared.apply(table, step.parameters, learned), learned)


def apply_chain(table: Table, steps: Sequence[Step], learned: Sequence[Learned]) -> Table:
    """Treat new samples with what the training set taught each step."""
    for step, lesson in zip(steps, learned, strict=True):
        if step.on:
            check_needs(step.treatment, table)
            table = step.treatment.apply(table, step.parameters, lesson)
    return table
