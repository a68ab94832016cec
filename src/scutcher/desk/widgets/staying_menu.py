"""A menu that stays open while its switches are set: several are chosen one after the other."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtGui import QKeyEvent, QMouseEvent
from PySide6.QtWidgets import QMenu


class StayingMenu(QMenu):
    """A click on a switch acts and leaves the menu open; Esc, or a click beside it, closes it."""

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """Act; go only where there is nothing to switch."""
        if not self._switched():
            super().mouseReleaseEvent(event)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Space and Enter switch as a click does."""
        keys = (Qt.Key.Key_Space, Qt.Key.Key_Return, Qt.Key.Key_Enter)
        if event.key() not in keys or not self._switched():
            super().keyPressEvent(event)

    def _switched(self) -> bool:
        action = self.activeAction()
        if action is None or not action.isCheckable() or not action.isEnabled():
            return False
        action.trigger()
        return True
