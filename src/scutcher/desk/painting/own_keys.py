"""Keys that a view wants for itself while something is begun on it, though the window has a use for them."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QEvent, QObject, Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QWidget

OWN = (Qt.Key.Key_Escape, Qt.Key.Key_Backspace)


class OwnKeys(QObject):
    """Takes Escape and Backspace on their way to shortcuts of the window."""

    def __init__(self, view: QWidget, begun: Callable[[], bool]) -> None:
        super().__init__(view)
        self._begun = begun
        view.installEventFilter(self)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """A key that would be a shortcut becomes one of the view."""
        wanted = event.type() == QEvent.Type.ShortcutOverride and isinstance(event, QKeyEvent)
        if not wanted or Qt.Key(event.key()) not in OWN or not self._begun():  # type: ignore[attr-defined]
            return False
        event.accept()
        return True
