"""How many threads linear algebra gets: small work is faster on one than waiting for the other."""

from __future__ import annotations

from contextlib import AbstractContextManager, nullcontext
from functools import cache
from typing import Any

SMALL = 1e9
"""Multiplications below which a second thread costs more than it brings (measured, 2 cores)."""


@cache
def _controller() -> Any:
    from threadpoolctl import ThreadpoolController  # type: ignore[import-untyped]

    return ThreadpoolController()


def fitting_threads(multiplications: float) -> AbstractContextManager[object]:
    """A context in which linear algebra uses one thread for small work, all of them for large."""
    return nullcontext() if multiplications > SMALL else one_thread()


def one_thread() -> AbstractContextManager[object]:
    """A context of many small products: each would wait longer for the second thread than it gains."""
    limit: AbstractContextManager[object] = _controller().limit(limits=1, user_api="blas")
    return limit
