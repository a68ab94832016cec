"""A word that opens choices; they are made anew each time it is opened."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtWidgets import QMenu, QToolButton


class ChoiceMenu(QToolButton):
    """Calls `fill(self)` before it opens; `fill` adds choices."""

    def __init__(self, words: str, tip: str, fill: Callable[[ChoiceMenu], None]) -> None:
        super().__init__()
        self.setText(words)
        self.setToolTip(tip)
        self.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        self.choices = QMenu(self)
        self._fill = fill
        self.choices.aboutToShow.connect(self.refill)
        self.setMenu(self.choices)

    def refill(self) -> None:
        """The choices as they are now."""
        self.choices.clear()
        self._fill(self)

    def add(self, words: str, on: bool, chosen: Callable[[], object]) -> None:
        """One choice, ticked where it is the one of now."""
        action = self.choices.addAction(words)
        action.setCheckable(True)
        action.setChecked(on)
        action.triggered.connect(lambda _=False: chosen())

    def line(self) -> None:
        """A line between choices."""
        self.choices.addSeparator()

    def choose(self, words: str) -> None:
        """As if one of the choices had been clicked.

        Raises
        ------
        KeyError
            There is none of these words.
        """
        self.refill()
        named = {action.text(): action for action in self.choices.actions()}
        named[words].trigger()
