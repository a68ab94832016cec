"""Memory while the desk is open: when garbage is collected, and what the system gets back.

Python's garbage is collected from the event loop only. A collection that starts in the middle of a signal's
`connect` may destroy another widget there, which wants the lock that `connect` holds: the window hangs. One
that starts on a worker thread would destroy widgets on the wrong thread. So automatic collection is off
while the desk is open, and a timer collects between events.
"""

from __future__ import annotations

import ctypes
import gc
from contextlib import suppress
from threading import Thread

from PySide6.QtCore import QObject, QTimer

EVERY = 1500  # milliseconds
YOUNG, OLD, MANY = 2000, 40, 150_000
"""Collect when so many objects are new; everything, when so many of those collections have been, or so many
objects have outlived them: 300,000 take a third of a second, those of some minutes would be a stand."""


TRIM, MAPPED, ARENAS = -1, -3, -8  # names of settings in the C library's malloc.h
HELD, LARGE = 256 << 20, 32 << 20  # bytes
POOLS = 2  # each thread would have one of its own, and each keep so much


def hold_memory() -> None:
    """Keep some memory that was freed, in place of giving it back: the next frame needs as much again.

    Asking the system anew for each picture and table of a frame takes several milliseconds of it. Arrays
    above 32 MB still come from the system and go back to it.
    """
    with suppress(AttributeError, OSError):  # a C library without these settings does well without
        library = ctypes.CDLL(None)
        library.mallopt(TRIM, HELD)
        library.mallopt(MAPPED, LARGE)
        library.mallopt(ARENAS, POOLS)


FIGURES = (
    "arena", "ordblks", "smblks", "hblks", "hblkhd", "usmblks", "fsmblks", "uordblks", "fordblks", "keepcost",
)  # fmt: skip


class _Held(ctypes.Structure):
    """What `mallinfo2` tells."""

    _fields_ = tuple((name, ctypes.c_size_t) for name in FIGURES)


def unused() -> int:
    """Bytes that were freed and are still held; 0 where the C library does not tell."""
    try:
        ask = ctypes.CDLL(None).mallinfo2
    except (AttributeError, OSError):
        return 0
    ask.restype = _Held
    return int(ask().fordblks)


def give_back() -> None:
    """Let the system have what was freed, where that is more than the next frames need.

    Holes between what is still there grow in a long session: they are not given back by themselves.
    """
    if unused() > HELD:
        with suppress(AttributeError, OSError):
            ctypes.CDLL(None).malloc_trim(0)


class Tidy(QObject):
    """Lives as long as the application."""

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        gc.disable()
        gc.freeze()  # what the start made stays: a collection need not look at it
        self._rounds = self._outlived = 0
        self._timer = QTimer(self)
        self._timer.timeout.connect(self.collect_some)
        self._timer.start(EVERY)

    def collect_some(self) -> None:
        """Collect what is young, and from time to time everything."""
        young = gc.get_count()[0]
        if young < YOUNG:
            return
        self._rounds += 1
        whole = self._rounds >= OLD or self._outlived > MANY
        gone = gc.collect(2 if whole else 1)
        self._outlived += max(young - gone, 0)
        if whole:
            self._rounds = self._outlived = 0
            Thread(target=give_back, name="scutcher-memory", daemon=True).start()  # takes some frames
