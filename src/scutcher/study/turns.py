"""Work behind the interface takes turns: one piece at a time, and none while a model is being computed."""

from __future__ import annotations

import time
from collections import deque
from collections.abc import Callable
from threading import Lock
from typing import Any

from scutcher.core.numeric.threads import resting
from scutcher.core.progress import Stopped, Watch

REST = 0.01
"""Seconds between two looks whether it is one's turn."""

FIRST = 1.0
"""Seconds that new work has at once, before what takes longer goes on."""


class Turns:
    """Two pieces of work that share a processor's memory take several times as long as one after the other.

    New work goes first, for a moment: what is short is there soon. What is longer waits its turn and is done
    in the order of coming.

    Parameters
    ----------
    held_up : function
        Whether nobody may work now.
    """

    def __init__(self, held_up: Callable[[], bool]) -> None:
        self._held_up = held_up
        self._lock = Lock()
        self._new: deque[object] = deque()
        self._long: deque[object] = deque()
        self._since = 0.0

    def take(self, work: Callable[[Watch], Any], watch: Watch) -> Any:
        """Do a piece of work, resting where it asks whether to go on and it is not its turn.

        Raises
        ------
        Stopped
            Nobody wants it any more.
        """
        me = object()

        def go_on(share: float) -> bool:
            self._pass_on(me)
            return self._wait(me, watch) and watch(share)

        with self._lock:
            self._new.append(me)
        try:
            if not self._wait(me, watch):
                raise Stopped
            self._since = time.perf_counter()
            return work(go_on)
        finally:
            with self._lock:
                (self._new if me in self._new else self._long).remove(me)

    def _pass_on(self, me: object) -> None:
        """After its first moment it is long work."""
        with self._lock:
            if me in self._new and time.perf_counter() - self._since > FIRST:
                self._new.remove(me)
                self._long.append(me)

    def _may_go(self, me: object) -> bool:
        with self._lock:
            first = self._new[0] if self._new else self._long[0]
        return first is me and not self._held_up()

    def _wait(self, me: object, watch: Watch) -> bool:
        """Until it is the turn of this one; whether it is still wanted."""
        if self._may_go(me):
            return True
        with resting():
            while not self._may_go(me):
                if not watch(0.0):
                    return False
                time.sleep(REST)
        return True
