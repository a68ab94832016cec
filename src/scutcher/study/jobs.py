"""Long work behind the interface: one worker, the newest request wins, overtaken answers are dropped."""

from __future__ import annotations

import threading
from collections.abc import Callable
from typing import Any

from scutcher.core.errors import InputError

Post = Callable[[Callable[[], None]], None]
"""Runs a function on the thread that owns the study, soon."""


class NewestWins:
    """Runs functions on one thread behind; while one runs, only the newest of those waiting is kept."""

    def __init__(self, post: Post) -> None:
        self._post = post
        self._lock = threading.Condition()
        self._waiting: tuple[int, Callable[[], Any], Callable[[Any], None]] | None = None
        self._ticket = 0
        self._thread: threading.Thread | None = None
        self._closed = False

    def submit(self, work: Callable[[], Any], done: Callable[[Any], None]) -> None:
        """Compute `work()` behind and hand its result, or its InputError, to `done`, unless overtaken."""
        with self._lock:
            self._ticket += 1
            self._waiting = (self._ticket, work, done)
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
                (ticket, work, done), self._waiting = self._waiting, None
            answer = _answer(work)
            self._post(lambda ticket=ticket, done=done, answer=answer: self._deliver(ticket, done, answer))

    def _deliver(self, ticket: int, done: Callable[[Any], None], answer: Any) -> None:
        if ticket == self._ticket and not self._closed:
            done(answer)


def _answer(work: Callable[[], Any]) -> Any:
    """The result, or the error as a value: the owner's thread decides what to do with either."""
    try:
        return work()
    except (InputError, MemoryError) as error:
        return error
    except Exception as error:  # a bug: carried to the owner's thread, which reports it
        return error
