"""How many threads numbers get: small products are faster on one, passes over much memory on two."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import AbstractContextManager, contextmanager, nullcontext
from functools import cache
from threading import Lock
from typing import Any

SMALL = 1e9
"""Multiplications below which a second thread costs more than it brings (measured, 2 cores)."""

MUCH = 5_000_000
"""Cells of an array above which a pass over its rows is shared by two threads."""


class _Limit:
    """Who is inside `one_thread`."""

    def __init__(self) -> None:
        self.lock, self.inside, self.held = Lock(), 0, None


_limit: Any = _Limit()


@cache
def _controller() -> Any:
    from threadpoolctl import ThreadpoolController  # type: ignore[import-untyped]

    return ThreadpoolController()


def fitting_threads(multiplications: float) -> AbstractContextManager[object]:
    """A context in which linear algebra uses one thread for small work, all of them for large."""
    return nullcontext() if multiplications > SMALL else one_thread()


@contextmanager
def one_thread() -> Iterator[None]:
    """A context of many small products: each would wait longer for the second thread than it gains.

    The limit holds for the whole process: the first to come in sets it, the last to leave takes it off.
    """
    with _limit.lock:
        _limit.inside += 1
        if _limit.inside == 1:
            _limit.held = _controller().limit(limits=1, user_api="blas")
    try:
        yield
    finally:
        with _limit.lock:
            _limit.inside -= 1
            if _limit.inside == 0:
                _limit.held.restore_original_limits()


def in_halves(work: Callable[[slice], object], rows: int, cells: int) -> None:
    """Do something to all rows of an array, to the halves of a large one at once.

    Parameters
    ----------
    work : function of a slice of rows
        Writes its result; what it does must not depend on other rows.
    rows, cells : int
        Of the array.
    """
    if cells < MUCH or rows < 2:
        work(slice(0, rows))
        return
    with ThreadPoolExecutor(1) as other:
        half = other.submit(work, slice(rows // 2, rows))
        work(slice(0, rows // 2))
        half.result()
