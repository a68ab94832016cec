"""The study: the current state, the one way to change it, and the way back."""

from __future__ import annotations

from typing import Protocol

from scutcher.study.callbacks import Announcer
from scutcher.study.state import State, changed_fields


class Command(Protocol):
    """A small frozen object with a sentence and a pure function from state to state."""

    @property
    def label(self) -> str:
        """What it does, as the undo menu says it."""

    def apply(self, state: State) -> State:
        """The state after it; raises an InputError and changes nothing where it is impossible."""


class Study(Announcer):
    """Holds the state, runs commands, remembers every earlier state, tells listeners what changed."""

    def __init__(self, state: State | None = None) -> None:
        super().__init__()
        self._state = state or State()
        self._undo: list[tuple[str, State]] = []
        self._redo: list[tuple[str, State]] = []

    @property
    def state(self) -> State:
        """The current state."""
        return self._state

    def do(self, command: Command) -> None:
        """Run a command; one that changes nothing leaves no trace."""
        after = command.apply(self._state)
        if not changed_fields(self._state, after):
            return
        self._undo.append((command.label, self._state))
        self._redo.clear()
        self._become(after)

    def undo(self) -> str | None:
        """Go back one command; the answer is its label, None where there is none."""
        return self._step(self._undo, self._redo)

    def redo(self) -> str | None:
        """Go forward again; the answer is the label, None where there is nothing to redo."""
        return self._step(self._redo, self._undo)

    @property
    def undo_label(self) -> str | None:
        """What undo would take back."""
        return self._undo[-1][0] if self._undo else None

    @property
    def redo_label(self) -> str | None:
        """What redo would bring again."""
        return self._redo[-1][0] if self._redo else None

    def _step(self, source: list[tuple[str, State]], target: list[tuple[str, State]]) -> str | None:
        if not source:
            return None
        label, state = source.pop()
        target.append((label, self._state))
        self._become(state)
        return label

    def _become(self, after: State) -> None:
        before, self._state = self._state, after
        self.announce(changed_fields(before, after) | {"history"})
