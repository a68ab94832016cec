"""What is said of files that are written: that it is done, or in one sentence why it could not be."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PySide6.QtWidgets import QFileDialog, QWidget

from scutcher.core.errors import InputError
from scutcher.desk.context import Desk
from scutcher.study.work import Priority, Work


def ask_path(window: QWidget, title: str, start: str, kinds: str, use: Callable[[Path], object]) -> None:
    """Ask where something goes; nothing follows where the person thinks better of it."""
    name, _ = QFileDialog.getSaveFileName(window, title, start, kinds)
    if name:
        use(Path(name))


def tried(desk: Desk, work: Callable[[], object]) -> bool:
    """Do it now; whether it could be done."""
    try:
        work()
    except InputError as error:
        desk.say(error)
        return False
    desk.say(desk.live.trouble)
    return True


def write_behind(desk: Desk, what: str, path: Path, work: Work, beside: str = "") -> bool:
    """Write a file behind and say where it is, or why it could not be; one file does not overtake another.

    The window waits for it before it closes, and does not close where it could not be written.

    Parameters
    ----------
    what : `The figure is`, as the sentence begins
    beside : `, its signature in …`, as it goes on after the name
    """
    done = then_say(desk, InputError(f"{what} in {path.name}{beside}.", f"It lies in {path.parent}."))
    desk.live.ask(f"writing {path}", None, work, done, priority=Priority.OUT)
    return True


def then_say(desk: Desk, done: InputError | None = None) -> Callable[[object], None]:
    """What follows work behind: that it is done, or why it could not be; else the sentence that it gave."""

    def ended(answer: object) -> None:
        if isinstance(answer, Exception) and not isinstance(answer, InputError):
            raise answer
        desk.say(answer if isinstance(answer, InputError) else done)

    return ended
