"""The new samples on the model of now: at once where that is light, else behind."""

from __future__ import annotations

from collections.abc import Callable

from scutcher.core.errors import InputError
from scutcher.core.progress import Watch
from scutcher.desk.context import Desk
from scutcher.desk.kept_behind import Behind
from scutcher.study.current_model import AT_ONCE
from scutcher.study.evaluation.new_samples import Newcomers, newcomers, work_of_new

_Answer = tuple[Newcomers | None, InputError | None]
NONE: _Answer = (None, None)


class NewcomersWork:
    """Knows those of one moment; `arrived` is called when they come from behind."""

    def __init__(self, desk: Desk, arrived: Callable[[], object]) -> None:
        self._desk, self._arrived = desk, arrived
        self._behind: Behind[_Answer] = Behind(desk, "newcomers", self._come)
        self._said: InputError | None = None
        self._waiting: Callable[[Newcomers], object] | None = None

    def now(self) -> Newcomers | None:
        """Those of the moment; None where there are none or none that fit it, or while they are projected."""
        found, brought, checked = self._desk.moment.found, self._desk.live.brought, self._desk.moment.checked
        if found is None or brought is None:
            return None

        def work(watch: Watch | None) -> _Answer:
            try:
                return newcomers(found, *brought, checked), None
            except InputError as error:
                return None, error

        light = work_of_new(found, brought[0]) <= AT_ONCE
        new, trouble = self._behind.of((found, brought, checked and checked.validation), work, light) or NONE
        if trouble is not None and trouble is not self._said:
            self._said = trouble
            self._desk.say(trouble)
        return new

    def then(self, use: Callable[[Newcomers], object]) -> object:
        """Use them now, or when they come; the newest use counts."""
        new = self.now()
        if new is not None:
            return use(new)
        self._waiting = use if self._desk.live.brought is not None else None
        return None

    def _come(self) -> None:
        self._arrived()
        waiting, self._waiting = self._waiting, None
        if waiting is not None:
            self.then(waiting)
