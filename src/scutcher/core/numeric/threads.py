"""How many threads numbers get: small products are faster on one, passes over much memory on two."""

from __future__ import annotations

import os
import sys
from collections import Counter
from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor, wait
from contextlib import AbstractContextManager, contextmanager, suppress
from functools import cache
from threading import Lock, get_ident, get_native_id
from typing import Any, Generic, TypeVar

import numpy as np

from scutcher.core.arrays import Floats
from scutcher.core.progress import Stopped, Watch, tell

Own = TypeVar("Own")

SMALL = 1e9
"""Multiplications below which a second thread costs more than it brings (measured, 2 cores)."""

MUCH = 5_000_000
"""Cells of an array above which a pass over its rows is shared by two threads."""

LEAST_ROWS, MOST_ROWS, ENOUGH = 256, 768, 24
"""Rows of a part of a shared pass: the more, the faster a product, as long as there are enough parts."""

PART_CELLS = 200_000
"""Cells that a part has at least."""

HELPERS = 4
"""Threads that take parts of passes: one for each piece of work that is under way or rests."""

BEHIND = 10
"""Niceness that what computes behind has more than the interface: a frame has a processor at once."""

LIBRARIES = ("scipy.linalg", "scipy.special")
"""Modules that bring a linear algebra library of their own."""

NO_ALGEBRA = (".cpython-", ".abi3.", "libQt6", "libpyside6", "libshiboken6")
"""Parts of the names of files that bring no linear algebra."""


class _Limit:
    """Which threads are inside `one_thread`, and how deep."""

    def __init__(self) -> None:
        self.lock, self.held = Lock(), None
        self.libraries: Any = None
        self.inside: Counter[int] = Counter()

    def add(self, thread: int, times: int) -> None:
        """Go in, or out with a negative number: the first in sets the limit, the last takes it off."""
        if times == 0:
            return
        with self.lock:
            was = self.inside.total()
            self.inside[thread] += times
            now = self.inside.total()
            if was == 0:
                self.libraries = _controller(sum(name in sys.modules for name in LIBRARIES))
                _take_over(self.libraries)
                self.held = self.libraries.limit(limits=1, user_api="blas")
            elif now == 0:
                _take_over(self.libraries)
                self.held.restore_original_limits()  # type: ignore[attr-defined]
                self.inside.clear()


_limit: Any = _Limit()


@cache
def _helpers() -> ThreadPoolExecutor:
    """The threads that take parts of passes; one pool for the whole program."""
    return ThreadPoolExecutor(HELPERS, "scutcher-part")


@cache
def _controller(loaded: int) -> Any:
    """Of the libraries that are loaded by now: SciPy brings one of its own when it is first used."""
    from threadpoolctl import ThreadpoolController  # type: ignore[import-untyped]

    class Libraries(ThreadpoolController):  # type: ignore[misc]
        """Modules of Python and of Qt are passed over: some hundred of them take a twentieth of a second."""

        def _make_controller_from_path(self, filepath: str) -> None:
            if not any(part in filepath.rpartition("/")[2] for part in NO_ALGEBRA):
                super()._make_controller_from_path(filepath)

    return Libraries()


def _take_over(libraries: Any) -> None:
    """Let this thread set the limit: else only the first that ever did may, and others are ignored."""
    for library in libraries.lib_controllers:
        clear = getattr(library, "clear_controlling_thread", None)  # threadpoolctl 3.8 and later
        if clear is not None:
            clear(force=True)


def give_way(thread: int | None = None) -> None:
    """Let the first thread of the program have a processor before this one, and before those it makes.

    Parameters
    ----------
    thread : int, optional
        The system's number of another thread.
    """
    with suppress(OSError):  # where the system does not allow it, all wait for each other as they come
        niceness = os.getpriority(os.PRIO_PROCESS, os.getpid()) + BEHIND
        os.setpriority(os.PRIO_PROCESS, thread or get_native_id(), niceness)


def others_give_way() -> None:
    """As `give_way`, for each thread but this one: those that linear algebra made when it was read."""
    for thread in os.listdir("/proc/self/task"):
        if int(thread) != get_native_id():
            give_way(int(thread))


def fitting_threads(multiplications: float) -> AbstractContextManager[object]:
    """A context in which linear algebra uses one thread for small work, all of them for large."""
    return resting() if multiplications > SMALL else one_thread()


@contextmanager
def one_thread() -> Iterator[None]:
    """A context of many small products: each would wait longer for the second thread than it gains.

    The limit holds for the whole process, until the last is out that came in.
    """
    thread = get_ident()
    _limit.add(thread, 1)
    try:
        yield
    finally:
        _limit.add(thread, -1)


@contextmanager
def resting() -> Iterator[None]:
    """A context in which this thread does nothing, or something large: its own `one_thread` does not hold."""
    thread = get_ident()
    mine = _limit.inside[thread]
    _limit.add(thread, -mine)
    try:
        yield
    finally:
        _limit.add(thread, mine)


def in_parts(
    work: Callable[[slice, Own], object],
    shape: tuple[int, int],
    own: Callable[[], Own],
    watch: Watch | None = None,
    much: int = MUCH,
    most: int | None = None,
) -> list[Own]:
    """Do something to all rows of an array; parts of a large one on two threads, each takes the next free.

    Which thread takes what makes no difference: what is summed up is the same to the last bit.

    Parameters
    ----------
    work : function of a slice of rows and of what belongs to its run
        What it does must not depend on other rows.
    shape : rows and columns of the array
    own : function
        Makes what belongs to a run of parts: a sum, for instance.
    watch : Watch, optional
        Asked before each part.
    much : int
        Cells from which it is shared.
    most : int, optional
        The most runs that the parts are put together to; each part is one if it is not given.

    Returns
    -------
    list
        What belongs to each run, in the order of the rows.

    Raises
    ------
    Stopped
    """
    rows, columns = shape
    if rows * columns < much or rows < 2:
        alone = own()
        work(slice(0, rows), alone)
        return [alone]
    with SharedPass(work, shape, own, watch, most) as shared:
        return shared.results()


def sums(values: Floats, axis: int | None = None) -> Floats:
    """The sum of all values, (n, p) → (), or of each column where the axis is 0, → (p,); by two threads."""
    n, p = values.shape

    def add(part: slice, own: Floats) -> None:
        own += values[part].sum(axis=axis)

    parts = in_parts(add, (n, p), lambda: np.zeros(() if axis is None else p))
    total: Floats = np.add.reduce(parts)
    return total


class SharedPass(Generic[Own]):
    """A pass that another thread has begun; this one takes its share when it asks for the results.

    Parameters are those of `in_parts`. To be used as a context: outside it nothing is under way any more.
    """

    def __init__(
        self,
        work: Callable[[slice, Own], object],
        shape: tuple[int, int],
        own: Callable[[], Own],
        watch: Watch | None = None,
        most: int | None = None,
    ) -> None:
        rows, columns = shape
        size = max(LEAST_ROWS, min(MOST_ROWS, rows // ENOUGH), PART_CELLS // columns)
        size = min(size, -(-rows // 2))
        parts = [slice(start, min(start + size, rows)) for start in range(0, rows, size)]
        self._runs = min(most or len(parts), len(parts))
        ends = [len(parts) * run // self._runs for run in range(self._runs + 1)]
        self._waiting = iter([(run, parts[ends[run] : ends[run + 1]]) for run in range(self._runs)])
        self._work, self._own, self._watch = work, own, watch
        self._owns: dict[int, Own] = {}
        self._second = _helpers().submit(self._take)

    def __enter__(self) -> SharedPass[Own]:
        return self

    def __exit__(self, *error: object) -> None:
        self._drop_rest()
        if not self._second.cancel():  # it may not have begun: then there is nothing to wait for
            wait([self._second])
            stopped = self._second.exception()
            if isinstance(stopped, Stopped):
                stopped.__traceback__ = None  # it holds this pass, and this pass holds it

    def results(self) -> list[Own]:
        """Take part until all is done: what belongs to each run, in the order of the rows.

        Raises
        ------
        Stopped
        """
        self._take()
        if not self._second.cancel():
            self._second.result()
        return [self._owns[run] for run in range(self._runs)]

    def _take(self) -> None:
        try:
            with one_thread():
                for run, its_parts in self._waiting:
                    self._owns[run] = self._own()
                    for part in its_parts:
                        tell(self._watch, 0.0)
                        self._work(part, self._owns[run])
        finally:
            self._drop_rest()

    def _drop_rest(self) -> None:
        """After an error, or when nobody wants it any more, there is nothing left for the other thread."""
        for _ in self._waiting:
            pass
