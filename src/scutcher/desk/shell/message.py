"""The message bar: one clear sentence over the page, which moves nothing."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtWidgets import QFrame, QHBoxLayout, QPushButton, QToolButton, QWidget

from scutcher.core.errors import InputError
from scutcher.desk.words import Words, escaped

WIDE = 620


class MessageBar(QFrame):
    """Says what was found and what to do, until it is closed or no longer true."""

    def __init__(self, window: QWidget) -> None:
        super().__init__(window)
        self.setObjectName("message")
        self.label = Words()
        self.label.setWordWrap(True)
        self.close_button = QToolButton()
        self.close_button.setText("×")
        self.close_button.setToolTip("Close this message")
        self.close_button.clicked.connect(self.hide)
        self.act = QPushButton()
        self.act.clicked.connect(self._act)
        self._action: Callable[[], object] | None = None
        layout = QHBoxLayout(self)
        layout.setContentsMargins(12, 8, 6, 8)
        layout.addWidget(self.label, 1)
        layout.addWidget(self.act)
        layout.addWidget(self.close_button)
        self.hide()

    def say(
        self, error: InputError | None, word: str = "", action: Callable[[], object] | None = None
    ) -> None:
        """Show an error's sentences, or nothing; with a button where there is a way to act at once."""
        self._action = action
        self.act.setText(word)
        self.act.setVisible(action is not None)
        if error is None:
            self.hide()
            return
        self.label.show_rich(f"<b>{escaped(error.problem)}</b> {escaped(error.remedy)}")
        self.show()
        self.place()
        self.raise_()

    def _act(self) -> None:
        self.hide()
        if self._action is not None:
            self._action()

    def place(self) -> None:
        """Keep it under the top bar, in the middle."""
        window, layout = self.parentWidget(), self.layout()
        assert window is not None and layout is not None
        width = min(WIDE, window.width() - 40)
        self.setFixedWidth(width)
        self.setFixedHeight(max(layout.heightForWidth(width), 40))
        self.move((window.width() - width) // 2, 50)
