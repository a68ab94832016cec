"""The samples set aside, projected onto the model of now: at once where that is light, else behind."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from scutcher.core.errors import InputError
from scutcher.desk.context import Desk
from scutcher.study.current_model import AT_ONCE
from scutcher.study.evaluation.new_samples import AsideProjected, set_aside_projected, work_of_aside

SLOT = "set aside"


class AsideWork:
    """Knows those of one moment; `arrived` is called when they come from behind."""

    def __init__(self, desk: Desk, arrived: Callable[[], object]) -> None:
        self._desk, self._arrived = desk, arrived
        self._of: tuple[object, ...] = ()
        self._known: AsideProjected | None = None

    def now(self) -> AsideProjected | None:
        """Those of the moment; None where there are none, or while they are projected."""
        moment = self._desk.moment
        found, table, checked = moment.found, moment.state.table, moment.checked
        if found is None or table is None or not table.set_aside:
            self._of, self._known = (), None
            return None
        of = (found.model, table, checked and checked.validation)
        if len(of) == len(self._of) and all(a is b for a, b in zip(of, self._of, strict=True)):
            return self._known
        self._of, self._known = of, None
        if work_of_aside(found, table) <= AT_ONCE:
            self._known = set_aside_projected(found, table, checked)
            return self._known

        def done(answer: Any) -> None:
            if isinstance(answer, Exception) and not isinstance(answer, InputError):
                raise answer
            if of is self._of and not isinstance(answer, InputError):
                self._known = answer
                self._arrived()

        self._desk.live.ask(SLOT, None, lambda watch: set_aside_projected(found, table, checked), done)
        return None
