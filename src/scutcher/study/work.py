"""The one queue of everything that takes longer than a frame: newest first in its slot, the urgent before."""

from __future__ import annotations

import threading
import time
from collections.abc import Callable, Hashable
from dataclasses import dataclass
from enum import IntEnum
from functools import partial
from itertools import count
from typing import Any

from scutcher.core.errors import InputError
from scutcher.core.frozen import frozen
from scutcher.core.numeric.threads import give_way, one_thread, resting
from scutcher.core.progress import Stopped, Watch

Post = Callable[[Callable[[], None]], None]
"""Runs a function on the thread that owns the study, soon."""

Work = Callable[[Watch], Any]
"""Computes something, and asks the watch now and then whether to go on."""

FIRST = 1.0
"""Seconds that new work has at once, before older work of the same priority goes on."""

BETWEEN = 0.1
"""Seconds at least from one word about how far a piece of work is to the next: each redraws bars."""

NAME = "scutcher-work"
"""Of each of its threads."""

LINGER = 1.0
"""Seconds for which whoever closes the queue waits for work that was stopped."""


class Priority(IntEnum):
    """What goes first."""

    MODEL = 0
    LOOKED_AT = 1
    CHECKS = 2
    GRIDS = 3
    UNASKED = 4
    """What somebody may ask for next."""

    FILES = 5
    """Reading and writing: waits for nobody and holds nobody up, since it waits for the disk."""

    OUT = 6
    """What somebody asked for as a file or on paper: as `FILES`, and finished before the end."""


@frozen(eq=False)
class Request:
    """Something to be done behind.

    Attributes
    ----------
    slot : str
        What it is for: the newest request of a slot wins, also over one that is under way.
    key : hashable
        Made of all that goes in: a request like the one that is waiting or under way is not begun again.
    priority : Priority
    work : function of a watch
        The watch tells how far it is, and says whether anybody still waits.
    done : function
        Gets the result or the error, on the owner's thread, unless the request was overtaken.
    told : function, optional
        Hears on the owner's thread how far it is, above 0 and up to 1, some times a second.
    """

    slot: str
    key: Hashable
    priority: Priority
    work: Work
    done: Callable[[Any], None]
    told: Callable[[float], None] | None = None


@dataclass(eq=False)
class _Job:
    request: Request
    order: int
    answer: Any = None
    wanted: bool = True
    long: bool = False
    since: float | None = None
    told: float = 0.0  # when it was told last how far it is

    @property
    def rank(self) -> tuple[int, bool, int]:
        """What goes first: the urgent, then what is new, then in the order of coming."""
        return int(self.request.priority), self.long, self.order


class Queue:
    """Runs requests on threads of its own, of which one at a time goes on and the others rest.

    Two pieces of work that share a processor's memory take several times as long as one after the other.
    So work rests, wherever it asks its watch, while something more urgent is there.
    """

    def __init__(self, post: Post) -> None:
        self._post = post
        self._changed = threading.Condition()
        self._jobs: list[_Job] = []
        self._ended: list[_Job] = []  # whose answers are still on their way to the owner
        self._threads: set[threading.Thread] = set()
        self._orders = count()
        self._closed = False

    def ask(self, request: Request) -> None:
        """Do something behind, unless the same is being done already."""
        with self._changed:
            if self._closed:
                return
            for job in (*self._jobs, *self._ended):
                if job.request.slot == request.slot and job.wanted:
                    if job.request.key == request.key and request.key is not None:
                        return
                    job.wanted = False
            job = _Job(request, next(self._orders))
            self._jobs.append(job)
            thread = threading.Thread(target=self._run, args=(job,), name=NAME, daemon=True)
            self._threads.add(thread)
            self._changed.notify_all()
        thread.start()

    def drop(self, slot: str) -> None:
        """Nobody waits any more for what was asked for in a slot."""
        with self._changed:
            for job in (*self._jobs, *self._ended):
                if job.request.slot == slot:
                    job.wanted = False
            self._changed.notify_all()

    def has(self, slot: str) -> bool:
        """Whether something of a slot is waited for."""
        with self._changed:
            return any(job.wanted and job.request.slot == slot for job in (*self._jobs, *self._ended))

    def wait_for(self, slot: str) -> None:
        """Wait until nothing of a slot is waiting or under way: for what must be written before the end."""
        with self._changed:
            self._changed.wait_for(lambda: all(job.request.slot != slot for job in self._jobs))

    def finish(self) -> bool:
        """Wait for what is on its way out, and hand over what came of it; whether all of it could be done."""

        def out(jobs: list[_Job]) -> list[_Job]:
            return [job for job in jobs if job.wanted and job.request.priority == Priority.OUT]

        with self._changed:
            self._changed.wait_for(lambda: not out(self._jobs))
            ended = out(self._ended)
        for job in ended:
            self._hand_over(job, job.answer)
            job.wanted = False  # when it is posted it has been handed over
        return not any(isinstance(job.answer, Exception) for job in ended)

    def close(self) -> None:
        """Stop everything, and wait a moment for it.

        What does not ask its watch for so long ends by itself; nobody hears of it.
        """
        with self._changed:
            self._closed = True
            for job in (*self._jobs, *self._ended):
                job.wanted = False
            self._changed.notify_all()
            threads = tuple(self._threads)
        end = time.perf_counter() + LINGER
        for thread in threads:
            if thread is not threading.current_thread():
                thread.join(max(end - time.perf_counter(), 0.0))

    # On the threads behind

    def _run(self, job: _Job) -> None:
        request, answer = job.request, None
        give_way()
        try:
            if self._rest(job):
                job.since = time.perf_counter()
                with one_thread():  # what is large asks for more
                    answer = request.work(partial(self._watch, job))
        except Exception as error:
            answer = error if _is_mistake(error) else error.with_traceback(None)  # that holds all it had
        finally:
            with self._changed:
                self._jobs.remove(job)
                job.answer = answer
                if job.wanted:
                    self._ended.append(job)
                self._changed.notify_all()
        if job.wanted or (_is_mistake(answer) and not self._closed):
            self._post(partial(self._hand_over, job, answer))
        with self._changed:
            self._threads.discard(threading.current_thread())

    def _hand_over(self, job: _Job, answer: Any) -> None:
        """On the owner's thread; what was overtaken since the work ended is not handed over."""
        with self._changed:
            if job in self._ended:
                self._ended.remove(job)
        if job.wanted:
            self._deliver(job, job.request.done, answer)
        elif _is_mistake(answer):
            raise answer  # nobody waits for it, but it is a mistake all the same

    def _watch(self, job: _Job, share: float) -> bool:
        """Called by the work: passes on how far it is, rests, and says whether anybody still waits."""
        told, since, now = job.request.told, job.since, time.perf_counter()
        if told is not None and share > 0.0 and now - job.told > BETWEEN:
            job.told = now
            self._post(partial(self._deliver, job, told, share))
        if not job.long and since is not None and now - since > FIRST:
            with self._changed:
                job.long = True
                self._changed.notify_all()
        return self._rest(job)

    def _rest(self, job: _Job) -> bool:
        """Wait while something more urgent is there; whether the job is still wanted."""
        with self._changed:
            if not job.wanted or self._is_first(job):
                return job.wanted
        with resting(), self._changed:
            self._changed.wait_for(lambda: not job.wanted or self._is_first(job))
            return job.wanted

    def _is_first(self, job: _Job) -> bool:
        """Whether nothing is more urgent, and what this one has overtaken has ended."""
        slot = job.request.slot
        if any(o.order < job.order and o.since is not None for o in self._jobs if o.request.slot == slot):
            return False
        if job.request.priority >= Priority.FILES:
            return True
        others = (other for other in self._jobs if other.wanted and other.request.priority < Priority.FILES)
        return all(job.rank <= other.rank for other in others)

    def _deliver(self, job: _Job, hearer: Callable[[Any], None], what: Any) -> None:
        if job.wanted and not self._closed:
            hearer(what)


def raise_error(answer: Any) -> None:
    """The `done` of work that hands over nothing: what went wrong in it is not kept quiet."""
    if isinstance(answer, Exception):
        raise answer


def _is_mistake(answer: Any) -> bool:
    """Whether something went wrong that is nobody's input."""
    return isinstance(answer, Exception) and not isinstance(answer, (Stopped, InputError))
