"""About how much work the treatments of a recipe are, before any of it is done."""

from __future__ import annotations

from collections.abc import Iterable

from scutcher.core.data.table import Table
from scutcher.core.errors import InputError
from scutcher.core.recipes.recipe import Step


def most_channels(table: Table, steps: Iterable[Step]) -> int:
    """The most channels that a table has on its way; the axis of each step is taken for that of the table."""
    return max([table.shape[1], *(_channels(table, step) for step in steps if step.on)])


def work_of(table: Table, step: Step) -> float:
    """Multiplications of a step on a table that it finds."""
    return step.treatment.cost * table.shape[0] * max(table.shape[1], _channels(table, step))


def _channels(table: Table, step: Step) -> int:
    if step.treatment.channels is None or not table.axis.ordered:
        return 0
    try:
        return step.treatment.channels(table.axis, step.parameters)
    except InputError:
        return 0  # that is said when it is computed
