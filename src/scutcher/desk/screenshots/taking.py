"""A picture of the window: on a demo study, once everything that is computed behind has come."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from PySide6.QtWidgets import QApplication

from scutcher.core.errors import FileError
from scutcher.desk.shell.beginning import demo_study
from scutcher.desk.shell.ending import dispose
from scutcher.desk.shell.start import application
from scutcher.desk.shell.window import Window
from scutcher.study.document.study import Study

SIZE = (1280, 800)


def window_on(study: Study) -> Window:
    """A window on screen, without the hints of a first time."""
    application()
    window = Window(study)
    window.trail.hints.forbid()
    window.resize(*SIZE)
    window.show()
    return window


@contextmanager
def pictured(demo: str, path: Path) -> Iterator[Window]:
    """The window on a demo study, whose picture is written at the end."""
    window = window_on(demo_study(demo))
    patiently(lambda: window.desk.moment.found is not None)
    yield window
    patiently(lambda: window.desk.moment.checked is not None)
    save_picture(window, path)
    dispose(window)


def save_picture(window: Window, path: Path) -> None:
    """The window as it is once everything has settled.

    Raises
    ------
    FileError
    """
    for _ in range(40):
        QApplication.processEvents()
    if not window.grab().save(str(path)):
        raise FileError(f"{path} cannot be written.", "Choose another folder.")


def at_page(window: Window, name: str) -> Any:
    """The view of a page that is gone to, once it is whole."""
    window.show_page(name)
    patiently(lambda: window.view(name) is not None)
    return window.view(name)


def patiently(true: Callable[[], bool], seconds: float = 60.0) -> None:
    """Wait for something that is computed behind."""
    end = time.monotonic() + seconds
    while not true() and time.monotonic() < end:
        QApplication.processEvents()
        time.sleep(0.01)
