"""Whether there is a screen to open a window on; asked before Qt is, which would only abort."""

from __future__ import annotations

import ctypes
import os
import sys
from pathlib import Path

from scutcher.core.errors import FileError

REMEDY = "Log in to a desktop, or use the commands that need no window (`man scutcher`)."


def check_display() -> None:
    """Refuse where no window can be opened.

    Raises
    ------
    FileError
    """
    if os.environ.get("QT_QPA_PLATFORM") or not sys.platform.startswith("linux"):
        return  # somebody has chosen, or it is no business of ours
    wayland, display = os.environ.get("WAYLAND_DISPLAY", ""), os.environ.get("DISPLAY", "")
    if not wayland and not display:
        raise FileError("There is no display to open a window on.", REMEDY)
    if wayland and _wayland_socket(wayland).exists():
        return
    if not display or not _answers(display):
        raise FileError(f"The display {display or wayland} does not answer.", REMEDY)


def _wayland_socket(name: str) -> Path:
    """Where a compositor listens: an absolute path, or below the run-time folder."""
    return Path(os.environ.get("XDG_RUNTIME_DIR", "/")) / name


def _answers(display: str) -> bool:
    """Whether an X server answers; True where that cannot be told."""
    try:
        xcb = ctypes.CDLL("libxcb.so.1")
    except OSError:
        return True
    xcb.xcb_connect.restype = ctypes.c_void_p
    xcb.xcb_connect.argtypes = [ctypes.c_char_p, ctypes.c_void_p]
    xcb.xcb_connection_has_error.argtypes = [ctypes.c_void_p]
    xcb.xcb_disconnect.argtypes = [ctypes.c_void_p]
    link = xcb.xcb_connect(os.fsencode(display), None)
    there = bool(xcb.xcb_connection_has_error(link) == 0)
    xcb.xcb_disconnect(link)
    return there
