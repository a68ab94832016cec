"""Results kept for reuse: one cache for the whole program, within a share of the machine's memory."""

from __future__ import annotations

import os
from collections import OrderedDict
from collections.abc import Callable, Hashable
from functools import cache
from threading import Lock
from typing import Any

SHARE = 1 / 16
"""Share of the machine's memory that results may take."""

LEAST = 256_000_000
"""Bytes that they may take on any machine."""


def memory_share() -> int:
    """Bytes that kept results may take here."""
    try:
        whole = os.sysconf("SC_PHYS_PAGES") * os.sysconf("SC_PAGE_SIZE")
    except (ValueError, OSError):
        whole = 0
    return max(LEAST, int(SHARE * whole))


class Cache:
    """Bounded by the memory of the arrays in it; what was used longest ago goes first. For any thread."""

    def __init__(self, limit: int | None = None) -> None:
        self._limit = memory_share() if limit is None else limit
        self._entries: OrderedDict[Hashable, tuple[Any, int]] = OrderedDict()
        self._lock = Lock()
        self._held = 0
        self.computed = 0

    def holds(self, key: Hashable) -> bool:
        """Whether something is kept that will be asked for next: until then others go first."""
        with self._lock:
            if key in self._entries:
                self._entries.move_to_end(key)
                return True
            return False

    def find(self, key: Hashable) -> Any:
        """What is kept under a key, or None."""
        with self._lock:
            if key not in self._entries:
                return None
            self._entries.move_to_end(key)
            return self._entries[key][0]

    def put(self, key: Hashable, result: Any, weight: int) -> None:
        """Keep a result of so many bytes."""
        with self._lock:
            _, before = self._entries.pop(key, (None, 0))
            self._entries[key] = (result, weight)
            self._held += weight - before
            while self._held > self._limit and len(self._entries) > 1:
                _, (_, dropped) = self._entries.popitem(last=False)
                self._held -= dropped

    def get(self, key: Hashable, compute: Callable[[], Any], size: Callable[[Any], int]) -> Any:
        """The kept result of a key, or a new one; an error is not kept."""
        kept = self.find(key)
        if kept is not None:
            return kept
        result = compute()
        self.computed += 1
        self.put(key, result, size(result))
        return result


def kept_in(
    cache: Cache | None, key: Hashable, compute: Callable[[], Any], size: Callable[[Any], int]
) -> Any:
    """As `Cache.get`; where there is no cache it is computed each time."""
    return compute() if cache is None else cache.get(key, compute, size)


@cache
def shared() -> Cache:
    """The cache of this program."""
    return Cache()
