"""A clean way out of a window, and into a fresh program."""

from __future__ import annotations

import gc
import os
import sys
import threading
import time
from collections.abc import Sequence

from PySide6.QtCore import QEvent
from PySide6.QtWidgets import QApplication
from shiboken6 import isValid

from scutcher.desk.shell.window import Window
from scutcher.study.work import NAME

PATIENCE = 10.0
"""Seconds at most for which a program without a window waits for its threads."""


def start_again(environment: dict[str, str], arguments: Sequence[str] = ("-m", "scutcher", "open")) -> None:
    """Become a fresh program; does not return."""
    sys.stdout.flush()
    os.execve(sys.executable, [sys.executable, *arguments], environment)


def release_clipboard() -> None:
    """Let go of tables and pictures on the clipboard: left there, they end the interpreter with a crash.

    So it is with PySide 6.10. What another program has put there stays.
    """
    clipboard = QApplication.clipboard()
    ours = clipboard.ownsClipboard() or QApplication.platformName() == "offscreen"
    held = clipboard.mimeData() if ours else None
    if held is not None and (held.hasHtml() or held.hasFormat("image/svg+xml")):
        clipboard.clear()


def dispose(window: Window) -> None:
    """Take a window down so that nothing of it is left, also at interpreter exit."""
    if not isValid(window):
        return
    if not window.close():  # something could not be written, and was taken back
        window.close()
    release_clipboard()
    window.deleteLater()
    QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
    QApplication.processEvents()
    gc.collect()


def leave(code: int) -> int:
    """The exit code, after waiting for what nobody can stop, as the drawing of a figure.

    The interpreter ends such a thread in the middle of foreign code, which takes the program down with an
    abort. Where it takes too long, the interpreter is not asked.
    """
    end = time.monotonic() + PATIENCE
    for thread in threading.enumerate():
        if thread.name == NAME:
            thread.join(max(end - time.monotonic(), 0.0))
            if thread.is_alive():
                sys.stdout.flush()
                sys.stderr.flush()
                os._exit(code)
    return code
