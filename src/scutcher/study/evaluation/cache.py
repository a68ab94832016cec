"""Results kept for reuse, within a limit of memory."""

from __future__ import annotations

from collections import OrderedDict
from collections.abc import Callable, Hashable
from typing import Any

MEMORY_LIMIT = 1_500_000_000  # bytes of arrays kept for reuse


class Memo:
    """A cache bounded by the memory of the arrays in it; what was used longest ago goes first."""

    def __init__(self, limit: int = MEMORY_LIMIT) -> None:
        self._limit = limit
        self._entries: OrderedDict[Hashable, tuple[Any, int]] = OrderedDict()
        self._held = 0
        self.computed = 0

    def get(self, key: Hashable, compute: Callable[[], Any], size: Callable[[Any], int]) -> Any:
        """The kept result of a key, or a new one; an error is not kept."""
        if key in self._entries:
            self._entries.move_to_end(key)
            return self._entries[key][0]
        result = compute()
        self.computed += 1
        weight = size(result)
        if key not in self._entries:
            self._entries[key] = (result, weight)
            self._held += weight
        while self._held > self._limit and len(self._entries) > 1:
            _, (_, dropped) = self._entries.popitem(last=False)
            self._held -= dropped
        return result
