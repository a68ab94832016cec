"""Starting: the application, its first windows, and the way to its end."""

from __future__ import annotations

import sys
from collections.abc import Callable, Sequence
from functools import partial
from pathlib import Path

from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QApplication

from scutcher.core.numeric.threads import others_give_way
from scutcher.desk.actions.numerals import take_numerals
from scutcher.desk.shell.beginning import asked_for, first_study
from scutcher.desk.shell.display import check_display
from scutcher.desk.shell.ending import leave, release_clipboard, start_again
from scutcher.desk.shell.ground import take_ground
from scutcher.desk.shell.memory import Tidy, hold_memory
from scutcher.desk.shell.single import hand_over
from scutcher.desk.shell.text_size import due, fresh_environment, prepare
from scutcher.desk.shell.window import Window
from scutcher.desk.shell.windows import Windows
from scutcher.study.storage import state_folder as places
from scutcher.study.storage.session import session

YIELD = 0.0005
"""Seconds for which what runs behind keeps the interpreter's lock when the window wants it: after each call
that others may run beside it wants it back, some hundred times a frame."""


def application() -> QApplication:
    """The one application, dressed."""
    made = QApplication.instance()
    if not isinstance(made, QApplication):
        prepare()
        others_give_way()  # before there are threads of the screen
        made = QApplication([*sys.argv[:1], "-style", "fusion"])
        made.setApplicationName("scutcher")
        take_ground(made)
        take_numerals()
        sys.setswitchinterval(YIELD)
        hold_memory()
        Tidy(made)
    return made


def run_window(
    files: Sequence[Path] = (), demo: str | None = None, shown: Callable[[Window], None] | None = None
) -> int:
    """Open the window and stay until it is closed.

    Parameters
    ----------
    files : a study, or data files to bring in
    demo : the name of a demo set
    shown : is called when the window is on screen

    Raises
    ------
    InputError
        There is no such demo, or no display.
    """
    check_display()
    made = application()
    factor = due()
    if factor is not None:
        start_again(fresh_environment(factor), sys.orig_argv[1:])
    others = [] if demo is not None else asked_for(files)
    if others and hand_over(others[0]) and len(files) <= 1:
        return 0
    pages = {one.path: one.page for one in session()} if not files else {}  # before it is kept anew
    begun = first_study(files, demo)
    windows = Windows()
    window = windows.open(begun)
    for path in others[1:]:
        if not hand_over(path):
            windows.open_file(path, window)
    for one in windows.all:
        page = pages.get(str(one.study.path))
        if page:
            QTimer.singleShot(0, partial(one.return_to, page))
    data = [path for path in files if path.suffix != places.SUFFIX]
    if data:
        QTimer.singleShot(0, lambda: window.opening.open_files(data))
    if shown is not None:
        QTimer.singleShot(0, lambda: shown(window))
    code = made.exec()
    windows.dispose()
    release_clipboard()
    return leave(code)
