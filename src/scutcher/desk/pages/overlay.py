"""What a view over the page promises the window."""

from __future__ import annotations

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QWidget


class Over(QWidget):
    """Stands in place of the page until it is `done`; the window then calls `close_down`."""

    done = Signal()
    leaves_on_escape = True

    def close_down(self) -> None:
        """Stop whatever runs for it."""
