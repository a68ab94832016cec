"""Many requests, one answer: a refresh that runs once, and only when somebody can see it; or in turns."""

from __future__ import annotations

from collections import deque
from collections.abc import Callable, Iterable

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


class InTurns(QObject):
    """Runs the parts of a refresh one after the other; the window paints and listens between them.

    Of very many samples each view takes a good part of a frame, all of them together several.
    """

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self._left: deque[Callable[[], object]] = deque()
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(0)
        self._timer.timeout.connect(self._next)

    def run(self, parts: Iterable[Callable[[], object]], apart: bool) -> None:
        """Begin with these parts, in place of those of before that are left.

        Parameters
        ----------
        apart : whether each has a turn of its own; else all are done at once
        """
        self._left.clear()
        self.also(parts, apart)

    def also(self, parts: Iterable[Callable[[], object]], apart: bool) -> None:
        """Go on with these parts after those that are left."""
        waiting = bool(self._left)
        self._left.extend(parts)
        while self._left and not apart:
            self._left.popleft()()
        if self._left and not waiting:
            self._next()

    def _next(self) -> None:
        if not self._left:
            return
        part = self._left.popleft()
        if self._left:
            self._timer.start()  # whatever becomes of this one
        part()
