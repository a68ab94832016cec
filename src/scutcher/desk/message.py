"""The message bar: one clear sentence over the page, which moves nothing."""

from __future__ import annotations

from PySide6.QtWidgets import QFrame, QHBoxLayout, QLabel, QToolButton, QWidget

from scutcher.core.errors import InputError

WIDE = 620


class MessageBar(QFrame):
    """Says what was found and what to do, until it is closed or no longer true."""

    def __init__(self, window: QWidget) -> None:
        super().__init__(window)
        self.setObjectName("message")
        self.label = QLabel()
        self.label.setWordWrap(True)
        self.close_button = QToolButton()
        self.close_button.setText("×")
        self.close_button.setToolTip("Close this message")
        self.close_button.clicked.connect(self.hide)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(12, 8, 6, 8)
        layout.addWidget(self.label, 1)
        layout.addWidget(self.close_button)
        self.hide()

    def say(self, error: InputError | None) -> None:
        """Show an error's sentences, or nothing."""
        if error is None:
            self.hide()
            return
        self.label.setText(f"<b>{_escaped(error.problem)}</b> {_escaped(error.remedy)}")
        self.show()
        self.place()
        self.raise_()

    def place(self) -> None:
        """Keep it under the top bar, in the middle."""
        window = self.parentWidget()
        width = min(WIDE, window.width() - 40)
        self.setFixedWidth(width)
        self.setFixedHeight(max(self.layout().heightForWidth(width), 40))
        self.move((window.width() - width) // 2, 50)


def _escaped(text: str) -> str:
    return text.replace("&", "&amp;").replace("<", "&lt;")
