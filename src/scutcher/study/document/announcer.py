"""Plain callbacks: who listens is told which names changed, once per change."""

from __future__ import annotations

from collections.abc import Callable, Iterable

Listener = Callable[[frozenset[str]], None]


class Announcer:
    """Keeps listeners and tells them, in the order they came, which fields are different now."""

    def __init__(self) -> None:
        self._listeners: list[Listener] = []

    def subscribe(self, listener: Listener) -> Callable[[], None]:
        """Add a listener; the answer is the function that removes it again."""
        self._listeners.append(listener)

        def leave() -> None:
            if listener in self._listeners:
                self._listeners.remove(listener)

        return leave

    def announce(self, changed: Iterable[str]) -> None:
        """Tell everybody, unless nothing changed.

        A listener that fails does not silence the others: all are told, then the first failure is raised.
        """
        names = frozenset(changed)
        failure: Exception | None = None
        for listener in tuple(self._listeners) if names else ():
            try:
                listener(names)
            except Exception as error:
                failure = failure or error
        if failure is not None:
            raise failure
