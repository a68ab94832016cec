"""Answers that may take longer than a frame: at once where they are light, else behind; kept."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any, Generic, TypeVar

from scutcher.charts.memo import same
from scutcher.core.data.table import Table
from scutcher.core.progress import Watch
from scutcher.desk.context import Desk

Found = TypeVar("Found")

AT_ONCE = 250_000
"""Values up to which a pass takes less than a frame."""


class Behind(Generic[Found]):
    """Asked again with the same inputs it answers at once; `arrived` is called when it can.

    Each has a slot of the queue to itself: there the newest request wins.
    """

    def __init__(self, desk: Desk, slot: str, arrived: Callable[[], object]) -> None:
        self._desk, self._slot, self._arrived = desk, slot, arrived
        self._inputs: tuple[Any, ...] = ()
        self._found: Found | None = None
        self._wanted: object = None

    def of(
        self, inputs: tuple[Any, ...], work: Callable[[Watch | None], Found], light: bool = False
    ) -> Found | None:
        """The answer to some inputs, or None while it is being computed.

        Parameters
        ----------
        inputs : what it is made of
            Compared as `charts.memo.same` does.
        light : whether it takes less than a frame
        """
        if same(inputs, self._inputs):
            return self._found
        self._inputs, self._found = inputs, None
        self._wanted = wanted = object()  # an answer of other inputs that is still to come is too late
        if light:
            self._found = work(None)
            return self._found

        def done(answer: Any) -> None:
            if isinstance(answer, Exception):
                raise answer
            if wanted is self._wanted:
                self._found = answer
                self._arrived()

        self._desk.live.ask(self._slot, None, work, done)
        return None

    def forget(self) -> None:
        """Hold nothing any more; an answer that is still to come is not wanted."""
        self._inputs, self._found, self._wanted = (), None, None


class KeptBehind(Generic[Found]):
    """Figures that take a pass over all values of a table."""

    def __init__(
        self, desk: Desk, slot: str, compute: Callable[[Table], Found], arrived: Callable[[], object]
    ) -> None:
        self._compute, self._behind = compute, Behind[Found](desk, slot, arrived)

    def of(self, table: Table, inputs: tuple[Any, ...], size: int) -> Found | None:
        """The figures of a table, or None while they are being computed.

        Parameters
        ----------
        inputs : what they are made of
        size : how many values are looked at
        """
        return self._behind.of(inputs, lambda watch: self._compute(table), size <= AT_ONCE)

    def forget(self) -> None:
        """Hold nothing any more."""
        self._behind.forget()
