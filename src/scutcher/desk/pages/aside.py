"""The samples set aside, projected onto the model of now: at once where that is light, else behind."""

from __future__ import annotations

from collections.abc import Callable

from scutcher.desk.context import Desk
from scutcher.desk.kept_behind import Behind
from scutcher.study.current_model import AT_ONCE
from scutcher.study.evaluation.new_samples import AsideProjected, set_aside_projected, work_of_aside


class AsideWork:
    """Knows those of one moment; `arrived` is called when they come from behind.

    Parameters
    ----------
    slot : of the queue, of each page its own
    """

    def __init__(self, desk: Desk, slot: str, arrived: Callable[[], object]) -> None:
        self._desk = desk
        self._kept: Behind[AsideProjected | None] = Behind(desk, slot, arrived)

    def now(self) -> AsideProjected | None:
        """Those of the moment; None where there are none, or while they are projected."""
        moment = self._desk.moment
        found, table, checked = moment.found, moment.state.table, moment.checked
        if found is None or table is None or not table.set_aside:
            return None
        return self._kept.of(
            (found.model, table, checked and checked.validation),
            lambda watch: set_aside_projected(found, table, checked),
            work_of_aside(found, table) <= AT_ONCE,
        )
