"""Many requests, one answer: a refresh that runs once when the event loop comes round."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QObject, QTimer


class Soon(QObject):
    """Call it as often as you like; `work` runs once."""

    def __init__(self, work: Callable[[], None], parent: QObject) -> None:
        super().__init__(parent)
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(0)
        self._timer.timeout.connect(work)

    def __call__(self) -> None:
        self._timer.start()
