"""What a person chooses for the whole program: the ground, the size of everything, how files are taken."""

from __future__ import annotations

from typing import Any

from msgspec.structs import replace
from PySide6.QtCore import QObject, Signal
from PySide6.QtWidgets import QLineEdit, QWidget

from scutcher.core.errors import InputError
from scutcher.desk.context import Desk
from scutcher.desk.widgets.popover import Ask
from scutcher.study.storage.settings import keep, settings

GROUNDS = {
    "desktop": "as the desktop",
    "light": "light",
    "dark": "dark",
    "contrast": "high contrast",
}
SIZES = (100, 115, 130, 150, 175)
"""Of everything, in percent."""


class Preferences(QObject):
    """Each choice is kept at once; what cannot be kept is said and changes nothing."""

    shown_anew = Signal()
    """Everything is to be drawn again: on another ground, with other numbers."""

    begin_again = Signal()
    """The program is to be started again, with the studies that are open."""

    def __init__(self, desk: Desk, parent: QObject) -> None:
        super().__init__(parent)
        self.desk = desk

    def _kept(self, **fields: Any) -> bool:
        try:
            keep(replace(settings(), **fields))
        except InputError as error:
            self.desk.say(error)
            return False
        return True

    def choose_ground(self, key: str) -> None:
        """Light, dark, of high contrast, or as the desktop says; now and from now on."""
        if self._kept(ground=key):
            self.shown_anew.emit()

    def choose_size(self, percent: int) -> None:
        """How large everything is; 0: as the desktop says."""
        if self._kept(text=percent):
            size = f"{percent} %" if percent else "that of the desktop"
            words = InputError(f"Text will be {size} when Scutcher starts again.", "Nothing is lost by that.")
            self.desk.say(words, "Start again now", self.begin_again.emit)

    def choose_numbers(self, key: str) -> None:
        """With which decimal mark numbers are shown: a key of `NUMBERS`."""
        if self._kept(numbers=key):
            self.shown_anew.emit()

    def ask_cluster(self, window: QWidget) -> Ask:
        """Ask which dask scheduler shares out the work on large images; none: this machine."""
        address = QLineEdit(settings().cluster)
        address.setPlaceholderText("tcp://host:8786; empty: this machine alone")
        address.setToolTip("Its workers must see the same files by the same paths")
        address.setMinimumWidth(300)

        def kept() -> bool:
            return self._kept(cluster=address.text().strip())

        asked = Ask(window, "A cluster for large images", [("address", address)], "Keep it", kept)
        asked.open_in_middle()
        return asked

    def switch_look_first(self) -> None:
        """Whether every file is shown in the import view before it is taken."""
        first = not settings().look_first
        if self._kept(look_first=first):
            words = "Every file is shown before it is taken." if first else "Clear files are taken at once."
            self.desk.say(InputError(words, "The same command changes it back."))
