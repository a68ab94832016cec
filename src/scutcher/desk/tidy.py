"""Collects Python's garbage from the event loop only.

A collection that starts in the middle of a signal's `connect` may destroy another widget there, which
wants the lock that `connect` holds: the window hangs. One that starts on a worker thread would destroy
widgets on the wrong thread. So automatic collection is off while the desk is open, and a timer collects
between events.
"""

from __future__ import annotations

import gc

from PySide6.QtCore import QObject, QTimer

EVERY = 1500  # milliseconds
YOUNG, OLD = 2000, 40
"""Collect when so many objects are new; everything, when so many of those collections have been."""


class Tidy(QObject):
    """Lives as long as the application."""

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        gc.disable()
        gc.freeze()  # what the start made stays: a collection need not look at it
        self._rounds = 0
        self._timer = QTimer(self)
        self._timer.timeout.connect(self.collect_some)
        self._timer.start(EVERY)

    def collect_some(self) -> None:
        """Collect what is young, and from time to time everything."""
        if gc.get_count()[0] < YOUNG:
            return
        self._rounds += 1
        gc.collect(2 if self._rounds % OLD == 0 else 1)
