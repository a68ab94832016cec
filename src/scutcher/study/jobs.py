"""Long work behind the interface: one worker, the newest request wins, overtaken answers are dropped."""

from __future__ import annotations

import threading
from collections.abc import Callable
from dataclasses import dataclass
from functools import partial
from typing import Any

from scutcher.core.progress import Watch

Post = Callable[[Callable[[], None]], None]
"""Runs a function on the thread that owns the study, soon."""


Work = Callable[[Watch], Any]
"""Computes something, and asks the watch now and then whether to go on."""


@dataclass(frozen=True, eq=False)
class _Request:
    ticket: int
    work: Work
    done: Callable[[Any], None]
    told: Callable[[float], None] | None


class NewestWins:
    """Runs functions on one thread behind; while one runs, only the newest of those waiting is kept.

    The function is handed a watch: it tells how far the work is, and is told when nobody waits any more.
    """

    def __init__(self, post: Post) -> None:
        self._post = post
        self._lock = threading.Condition()
        self._waiting: _Request | None = None
        self._ticket = 0
        self._thread: threading.Thread | None = None
        self._closed = False

    def submit(
        self, work: Work, done: Callable[[Any], None], told: Callable[[float], None] | None = None
    ) -> None:
        """Compute `work(watch)` behind and hand its result, or its error, to `done`, unless overtaken.

        `told` hears on the owner's thread how far it is, above 0 and up to 1.
        """
        with self._lock:
            self._ticket += 1
            self._waiting = _Request(self._ticket, work, done, told)
            if self._thread is None:
                self._thread = threading.Thread(target=self._run, name="scutcher-work", daemon=True)
                self._thread.start()
            self._lock.notify()

    def drop(self) -> None:
        """Nobody waits any more for what was submitted so far."""
        with self._lock:
            self._ticket += 1
            self._waiting = None

    def close(self) -> None:
        """Stop after the work in hand, and wait for it."""
        with self._lock:
            self._closed = True
            self._waiting = None
            self._ticket += 1
            self._lock.notify()
        if self._thread is not None:
            self._thread.join()

    def _run(self) -> None:
        while True:
            with self._lock:
                while self._waiting is None and not self._closed:
                    self._lock.wait()
                if self._closed or self._waiting is None:
                    return
                request, self._waiting = self._waiting, None
            answer = _answer(request.work, partial(self._watch, request))
            self._post(partial(self._deliver, request.ticket, request.done, answer))

    def _watch(self, request: _Request, share: float) -> bool:
        """Called by the work: passes on how far it is, and says whether anybody still waits."""
        if request.told is not None and share > 0:
            self._post(partial(self._deliver, request.ticket, request.told, share))
        return self._is_wanted(request.ticket)

    def _is_wanted(self, ticket: int) -> bool:
        return ticket == self._ticket and not self._closed

    def _deliver(self, ticket: int, done: Callable[[Any], None], answer: Any) -> None:
        if self._is_wanted(ticket):
            done(answer)


def _answer(work: Work, watch: Watch) -> Any:
    """The result, or the error as a value: the owner's thread decides what to do with either."""
    try:
        return work(watch)
    except Exception as error:
        return error
