"""What a thread computes in one go, at the best pace that the machine had."""

from __future__ import annotations

import time
from collections.abc import Iterator
from contextlib import contextmanager

from PySide6.QtCore import QAbstractEventDispatcher


class OwnTime:
    """The longest time of a processor between two places at which the event loop could turn.

    By the clock anything may take long on a machine that others work on too; seconds of a processor are
    fewer there than they were, or worth less: so they are counted at the best pace of the run.
    """

    def __init__(self) -> None:
        self.longest = 0.0
        self._from = time.thread_time()
        self._best = min(pace() for _ in range(10))

    def begin(self) -> None:
        """Count from here."""
        self.longest, self._from = 0.0, time.thread_time()

    def turn(self) -> None:
        """The event loop could turn here."""
        now = time.thread_time()
        self.longest, self._from = max(self.longest, now - self._from), now

    @contextmanager
    def of_every_loop(self) -> Iterator[None]:
        """Each time an event loop turns is one, that of a menu or of a dialogue too."""
        loop = QAbstractEventDispatcher.instance()
        turns = (loop.aboutToBlock, loop.awake)
        for turn in turns:
            turn.connect(self.turn)
        try:
            yield
        finally:
            for turn in turns:
                turn.disconnect(self.turn)

    def at_best(self, from_where: float) -> float:
        """What the longest would have been if the machine had not been slowed down.

        Parameters
        ----------
        from_where : below so many seconds nobody asks, and it is told as it is
        """
        if self.longest > from_where:
            now = min(pace() for _ in range(3))
            self._best = min(self._best, now)
            return self.longest * self._best / now
        return self.longest


def pace() -> float:
    """Seconds of a processor that a fixed piece of work takes now."""
    start, total = time.thread_time(), 0
    for number in range(100_000):
        total += number % 7
    return time.thread_time() - start
