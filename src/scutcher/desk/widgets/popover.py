"""Small papers over the window: a question with a few fields, a list with an action for each line."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from functools import partial

from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import (
    QComboBox,
    QFormLayout,
    QFrame,
    QHBoxLayout,
    QLineEdit,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from scutcher.desk.words import Words

MARGIN = 8


class Popover(QFrame):
    """A paper inside the window; Esc puts it away, and so does the next one."""

    def __init__(self, window: QWidget, title: str) -> None:
        super().__init__(window)
        for earlier in window.findChildren(Popover):
            if earlier is not self:
                earlier.dismiss()
        self.setObjectName("popover")
        self.column = QVBoxLayout(self)
        self.column.setContentsMargins(14, 12, 14, 12)
        self.column.setSpacing(8)
        heading = Words(title)
        heading.setObjectName("strong")
        self.column.addWidget(heading)

    @property
    def over(self) -> QWidget:
        """The window that it stands over."""
        window = self.parentWidget()
        assert window is not None
        return window

    def open_at(self, anchor: QWidget, above: bool) -> None:
        """Show it beside a widget, kept inside the window."""
        window = self.over
        self.setMaximumSize(window.width() - 2 * MARGIN, window.height() - 2 * MARGIN)
        self.adjustSize()
        corner = anchor.mapTo(window, QPoint(0, 0))
        x = min(
            max(corner.x() + anchor.width() - self.width(), MARGIN), window.width() - self.width() - MARGIN
        )
        y = corner.y() - self.height() - MARGIN if above else corner.y() + anchor.height() + MARGIN
        self.move(max(x, MARGIN), min(max(y, MARGIN), window.height() - self.height() - MARGIN))
        self.show()
        self.raise_()

    def open_at_left(self) -> None:
        """Show it over the trail, at the bottom: away from what it speaks of."""
        self.adjustSize()
        self.move(MARGIN, max(self.over.height() - self.height() - MARGIN, MARGIN))
        self.show()
        self.raise_()
        self.setFocus()

    def open_in_middle(self) -> None:
        """Show it in the middle of the window."""
        self.adjustSize()
        window = self.over
        self.move((window.width() - self.width()) // 2, max((window.height() - self.height()) // 3, MARGIN))
        self.show()
        self.raise_()
        self.setFocus()

    def dismiss(self) -> None:
        """Put it away."""
        self.hide()
        self.setParent(None)
        self.deleteLater()

    def _choose(self, action: Callable[[], object], checked: bool = False) -> None:
        """A button was pressed: away with the paper, then what it says."""
        self.dismiss()
        action()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Esc puts it away."""
        if event.key() == Qt.Key.Key_Escape:
            self.dismiss()
        else:
            super().keyPressEvent(event)


class Ask(Popover):
    """A question: fields and one button that answers it."""

    def __init__(
        self,
        window: QWidget,
        title: str,
        fields: Sequence[tuple[str, QWidget]],
        button: str,
        answered: Callable[[], bool],
    ) -> None:
        super().__init__(window, title)
        self.setMinimumWidth(300)
        form = QFormLayout()
        form.setHorizontalSpacing(10)
        form.setVerticalSpacing(6)
        form.setFieldGrowthPolicy(QFormLayout.FieldGrowthPolicy.ExpandingFieldsGrow)
        for word, field in fields:
            form.addRow(word, field)
            if isinstance(field, QLineEdit):
                field.returnPressed.connect(self._answer)
            elif isinstance(field, QComboBox) and (line := field.lineEdit()) is not None:
                line.returnPressed.connect(self._answer)
        self.column.addLayout(form)
        self.yes, no = QPushButton(button), QPushButton("Cancel")
        self.yes.setObjectName("primary")
        self._answered = answered
        self.yes.clicked.connect(self._answer)
        no.clicked.connect(self.dismiss)
        row = QHBoxLayout()
        row.addStretch(1)
        row.addWidget(no)
        row.addWidget(self.yes)
        self.column.addLayout(row)
        self._first = fields[0][1]

    def open_at(self, anchor: QWidget, above: bool) -> None:
        """Show it, ready to type into the first field."""
        super().open_at(anchor, above)
        self._first.setFocus()

    def _answer(self) -> None:
        if self._answered():
            self.dismiss()


class Choice(Popover):
    """A question in words with an answer on each button; Esc answers nothing."""

    def __init__(
        self, window: QWidget, title: str, words: str, answers: Mapping[str, Callable[[], object]]
    ) -> None:
        super().__init__(window, title)
        label = Words(words)
        label.setTextFormat(Qt.TextFormat.PlainText)
        label.setWordWrap(True)
        label.setMinimumWidth(380)
        self.column.addWidget(label)
        row = QHBoxLayout()
        row.addStretch(1)
        cancel = QPushButton("Cancel")
        cancel.clicked.connect(self.dismiss)
        row.addWidget(cancel)
        self.buttons: dict[str, QPushButton] = {}
        for word, answer in answers.items():
            button = QPushButton(word)
            button.clicked.connect(partial(self._choose, answer))
            row.addWidget(button)
            self.buttons[word] = button
        next(iter(self.buttons.values())).setObjectName("primary")
        self.column.addLayout(row)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)


class Listing(Popover):
    """Lines of text, each with a button."""

    def __init__(
        self,
        window: QWidget,
        title: str,
        lines: Sequence[tuple[str, str, Callable[[], object] | None]],
    ) -> None:
        """Lines are (text, button's word, what it does); without an action there is no button."""
        super().__init__(window, title)
        self.setMinimumWidth(320)
        for text, word, action in lines:
            row = QHBoxLayout()
            label = Words(text)
            label.setWordWrap(True)
            row.addWidget(label, 1)
            if action is not None:
                button = QPushButton(word)
                button.clicked.connect(partial(self._choose, action))
                row.addWidget(button)
            self.column.addLayout(row)
        close = QPushButton("Close")
        close.clicked.connect(self.dismiss)
        self.column.addWidget(close, 0, Qt.AlignmentFlag.AlignRight)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)

    def open_at(self, anchor: QWidget, above: bool) -> None:
        """Show it; Esc works at once."""
        super().open_at(anchor, above)
        self.setFocus()
