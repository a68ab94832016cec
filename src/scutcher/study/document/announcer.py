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
        """Tell everybody, unless nothing changed."""
        names = frozenset(changed)
        if names:
            for listener in tuple(self._listeners):
                listener(names)
