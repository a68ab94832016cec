"""A property that is computed when it is asked for the first time, and kept; no thread waits for another."""

from __future__ import annotations

from functools import cached_property
from typing import Any, Self, TypeVar, overload

T = TypeVar("T")


class computed_once(cached_property[T]):
    """As `functools.cached_property`, without its lock.

    Before Python 3.12 that lock is one for all objects of a class: while a thread behind computes what takes
    long of one, the window would wait for what is known at once of another. Two threads that ask together
    compute twice, and both get what was there first.
    """

    @overload
    def __get__(self, instance: None, owner: type[Any] | None = None) -> Self: ...

    @overload
    def __get__(self, instance: object, owner: type[Any] | None = None) -> T: ...

    def __get__(self, instance: object | None, owner: type[Any] | None = None) -> Self | T:
        """What is known, or computed now."""
        if instance is None:
            return self
        known, name = vars(instance), self.attrname
        assert name is not None
        found: T = known[name] if name in known else known.setdefault(name, self.func(instance))
        return found
