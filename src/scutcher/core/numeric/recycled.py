"""Large arrays in memory that was used before: to be given fresh memory costs as much as to write to it."""

from __future__ import annotations

from ctypes import c_char
from math import prod
from threading import RLock
from typing import Any
from weakref import finalize

import numpy as np
from numpy.typing import DTypeLike, NDArray

from scutcher.core.arrays import Reals

LARGE = 8 * 2**20
"""Bytes from which memory is kept for the next one."""

MOST_KEPT = 256 * 2**20
"""Bytes that wait for a next one at most."""

LOOSE = 1.25
"""A block may be so many times as large as what is asked for."""

Block = NDArray[np.uint8]


class _Blocks:
    """Blocks of memory that nobody uses, the last used at the end."""

    def __init__(self) -> None:
        self._free = list[Block]()
        self._lock = RLock()  # a block may come back while this thread is asking for another

    def take(self, size: int) -> Block:
        """One of at least so many bytes, whatever is in it."""
        with self._lock:
            fitting = [at for at, block in enumerate(self._free) if size <= len(block) <= LOOSE * size]
            if fitting:
                return self._free.pop(fitting[-1])
        return np.empty(size, dtype=np.uint8)

    def give_back(self, block: Block) -> None:
        """Keep a block that nobody uses any more; those that waited longest go where they are too many."""
        with self._lock:
            self._free.append(block)
            while sum(map(len, self._free)) > MOST_KEPT:
                del self._free[0]


_blocks = _Blocks()


def recycled(shape: tuple[int, ...], dtype: DTypeLike = float) -> Reals:
    """As `numpy.empty`; the memory of a large array is used again when nobody holds it or a view of it.

    Parameters
    ----------
    shape : tuple of int
    dtype : data type
    """
    kind: np.dtype[Any] = np.dtype(dtype)
    size = prod(shape) * kind.itemsize
    if not LARGE <= size <= MOST_KEPT:
        return np.empty(shape, kind)
    block = _blocks.take(size)
    held = (c_char * len(block)).from_buffer(block.data)  # every view holds on to it
    finalize(held, _blocks.give_back, block).atexit = False
    found: Reals = np.frombuffer(memoryview(held), kind, prod(shape)).reshape(shape)
    return found
