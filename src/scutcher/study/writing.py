"""What a study is told is written behind, in the order of coming; a failure takes back what came after."""

from __future__ import annotations

import threading
from collections import deque
from collections.abc import Callable
from typing import Any

from scutcher.core.errors import InputError
from scutcher.core.progress import Watch
from scutcher.study.work import Priority, Queue, Request

SLOT = "store"
"""Of the queue."""


class WritingBehind:
    """The `Writer` of a study in a window, by the queue of the window.

    Parameters
    ----------
    queue : Queue
    say : hears on the owner's thread why something could not be written, after it was taken back
    """

    def __init__(self, queue: Queue, say: Callable[[InputError], None]) -> None:
        self._queue, self._say = queue, say
        self._turn = threading.Lock()
        self._waiting: deque[tuple[Callable[[], None], Callable[[], None]]] = deque()
        self._failure: tuple[Exception, Callable[[], None]] | None = None

    def add(self, write: Callable[[], None], failed: Callable[[], None]) -> None:
        """Write something soon.

        Parameters
        ----------
        failed : takes back on the owner's thread what could not be written, and all that came after it
        """
        with self._turn:
            self._waiting.append((write, failed))
        self._queue.ask(Request(SLOT, None, Priority.FILES, self._write_all, self._written))

    def finish(self) -> bool:
        """Wait, on the owner's thread, until all is written or has failed, which is said; whether it is."""
        self._queue.wait_for(SLOT)
        self._write_all()  # what a queue that is closed did not take
        return self._tell()

    def _write_all(self, watch: Watch | None = None) -> None:
        """Whoever comes first writes what there is; nothing is written after what failed."""
        while True:
            with self._turn:
                if not self._waiting or self._failure is not None:
                    return
                write, failed = self._waiting[0]
            try:
                write()
            except Exception as error:
                with self._turn:
                    self._failure = error, failed
                return
            with self._turn:
                self._waiting.popleft()

    def _written(self, answer: Any) -> None:
        if isinstance(answer, Exception):
            raise answer
        self._tell()

    def _tell(self) -> bool:
        """Take back what failed, and say why; whether nothing did."""
        with self._turn:
            failure, self._failure = self._failure, None
            if failure is None:
                return True
            self._waiting.clear()
        error, take_back = failure
        take_back()
        if not isinstance(error, InputError):
            raise error
        self._say(error)
        return False
