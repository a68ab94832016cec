"""What every part of the window works on: the study, its live model, and where the eyes are."""

from __future__ import annotations

from collections.abc import Callable
from typing import Protocol
from weakref import ref

from PySide6.QtCore import QObject, Signal
from PySide6.QtWidgets import QWidget
from shiboken6 import isValid

from scutcher.core.errors import InputError
from scutcher.core.frozen import frozen
from scutcher.study.current_model import CurrentModel
from scutcher.study.document.announcer import Announcer, Listener
from scutcher.study.document.study import Command, Study
from scutcher.study.moment import Moment
from scutcher.study.selection import Selection


class Mailbox(QObject):
    """Carries functions from a worker thread to the thread that owns the window.

    It is nobody's child and stays for as long as the program runs: a thread may post while the window that
    it works for is taken down, and would find a box that is gone, or is going. What arrives after its owner
    has gone is dropped.
    """

    _arrived = Signal(object)

    def __init__(self, owner: QObject | None = None) -> None:
        super().__init__()
        self._owner = None if owner is None else ref(owner)
        self._arrived.connect(self._deliver)
        _BOXES.append(self)

    def post(self, work: Callable[[], None]) -> None:
        """Run `work` on the owner's thread, soon."""
        self._arrived.emit(work)

    def _deliver(self, work: Callable[[], None]) -> None:
        owner = None if self._owner is None else self._owner()
        if self._owner is None or (owner is not None and isValid(owner)):
            work()


_BOXES: list[Mailbox] = []


class Say(Protocol):
    """Shows the sentence of an error, with a button where one can act at once; None takes it away."""

    def __call__(
        self, error: InputError | None, word: str = "", action: Callable[[], object] | None = None
    ) -> None: ...


MUCH, WIDE = 500_000, 5_000
"""Numbers and variables of a table from which its views are drawn one after the other."""


@frozen
class Desk:
    """Shared by all parts of one window.

    Attributes
    ----------
    say : Say
        In the message bar.
    """

    study: Study
    live: CurrentModel
    selection: Selection
    say: Say

    @property
    def moment(self) -> Moment:
        """What every view shows: of one time, always."""
        return self.live.moment

    @property
    def has_much(self) -> bool:
        """Whether the views of the table are drawn one after the other: all together take several frames."""
        table = self.moment.state.table
        return table is not None and (table.values.size > MUCH or table.shape[1] > WIDE)

    def do(self, command: Command) -> bool:
        """Run a command; an impossible one becomes a message. True where it was done."""
        try:
            self.study.do(command)
        except InputError as error:
            self.say(error)
            return False
        self.say(self.live.trouble)
        return True


def follow(widget: QWidget, source: Announcer, listener: Listener) -> None:
    """Listen to a source for as long as a widget lives."""
    leave = source.subscribe(listener)
    widget.destroyed.connect(lambda: leave())


def follow_live(widget: QWidget, desk: Desk, refresh: Callable[[], None]) -> None:
    """Refresh on all that is new of the moment and behind it, but for how far work is."""
    follow(widget, desk.live, lambda changed: refresh() if changed - {"checking", "progress"} else None)


def follow_moment(widget: QWidget, desk: Desk, redraw: Callable[[], None]) -> None:
    """Redraw on all that changes in the moment but the checks, for as long as a widget lives."""
    follow(widget, desk.live, lambda changed: redraw() if changed - {"checking", "checked"} else None)
