"""What was made for the last few things that were asked for: they come again."""

from __future__ import annotations

from collections.abc import Callable, Hashable
from typing import Generic, TypeVar

T = TypeVar("T")


class LastFew(Generic[T]):
    """Keeps so many, and forgets the one that was asked for longest ago."""

    def __init__(self, most: int) -> None:
        self._most = most
        self._kept: dict[Hashable, T] = {}

    def __len__(self) -> int:
        return len(self._kept)

    def __contains__(self, key: Hashable) -> bool:
        return key in self._kept

    def get(self, key: Hashable, make: Callable[[], T]) -> T:
        """What belongs to a key, made where it is not kept."""
        found = self._kept.pop(key) if key in self._kept else make()
        self._kept[key] = found
        if len(self._kept) > self._most:
            del self._kept[next(iter(self._kept))]
        return found

    def clear(self) -> None:
        """Forget all."""
        self._kept.clear()
