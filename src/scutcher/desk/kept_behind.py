"""Figures that take a pass over all values of a table: at once of little data, behind of much; kept."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, Generic, TypeVar

from scutcher.charts.memo import same
from scutcher.core.data.table import Table
from scutcher.core.progress import Watch
from scutcher.desk.context import Desk

Found = TypeVar("Found")

AT_ONCE = 1_000_000
"""Values up to which a pass takes less than a frame."""


class KeptBehind(Generic[Found]):
    """Asked again with the same inputs it answers at once; `arrived` is called when it can."""

    def __init__(
        self, desk: Desk, slot: str, compute: Callable[[Table], Found], arrived: Callable[[], object]
    ) -> None:
        self._desk, self._slot, self._compute, self._arrived = desk, slot, compute, arrived
        self._inputs: tuple[Any, ...] = ()
        self._found: Found | None = None
        self._wanted: object = None

    def of(self, table: Table, inputs: tuple[Any, ...], size: int) -> Found | None:
        """The figures of a table, or None while they are being computed.

        Parameters
        ----------
        inputs : what they are made of
            Compared as `charts.memo.same` does.
        size : how many values are looked at
        """
        if len(inputs) == len(self._inputs) and all(map(same, inputs, self._inputs)):
            return self._found
        self._inputs, self._found = inputs, None
        self._wanted = wanted = object()  # an answer of other inputs that is still to come is too late
        if size <= AT_ONCE:
            self._found = self._compute(table)
            return self._found

        def work(watch: Watch) -> Found:
            return self._compute(table)

        def done(answer: Any) -> None:
            if isinstance(answer, Exception):
                raise answer
            if wanted is self._wanted:
                self._found = answer
                self._arrived()

        self._desk.live.ask(self._slot, None, work, done)
        return None
