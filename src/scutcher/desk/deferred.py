"""Many requests, one answer: a refresh that runs once, and only when somebody can see it."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QEvent, QObject, QTimer
from PySide6.QtWidgets import QWidget


class Soon(QObject):
    """Call it as often as you like; `work` runs once, and for a hidden widget not before it is shown."""

    def __init__(self, work: Callable[[], None], widget: QWidget) -> None:
        super().__init__(widget)
        self._widget, self._work, self._wanted = widget, work, False
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(0)
        self._timer.timeout.connect(self._run)
        widget.installEventFilter(self)

    def __call__(self) -> None:
        self._wanted = True
        self._timer.start()

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """What was put off is done when the widget appears."""
        if event.type() == QEvent.Type.Show and self._wanted:
            self._timer.start()
        return False

    def _run(self) -> None:
        if self._wanted and self._widget.isVisible():
            self._wanted = False
            self._work()
