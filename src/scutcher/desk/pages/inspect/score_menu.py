"""What is laid over the score plane: a menu of switches, each acting at once."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import asdict, replace

from PySide6.QtGui import QAction
from PySide6.QtWidgets import QMenu, QToolButton, QWidget

from scutcher.charts.overlays import Overlays
from scutcher.core.words import shown
from scutcher.desk.widgets.staying_menu import StayingMenu

ELLIPSES = {
    "none": "no ellipse",
    "all": "ellipse of all samples (T²)",
    "class": "ellipse of each class",
    "sd": "1, 2, 3 standard deviations",
}
SWITCHES = {
    "hulls": "hull of each class",
    "centroids": "centroids",
    "order": "line in run order",
    "replicates": "replicates joined",
    "arrows": "variables as arrows",
    "places": "tails to held-out places",
    "aside": "samples set aside, hollow",
    "square": "both axes to one scale",
}
LABELS = {"picked": "the picked only", "outlying": "those past a limit", "all": "all that have room"}
LEVELS = (0.5, 0.9, 0.95, 0.99)


class ScoreMenu(QToolButton):
    """`show ▾` on the score plane."""

    def __init__(
        self,
        changed: Callable[[Overlays], None],
        columns: Callable[[], list[str]],
        parent: QWidget | None = None,
    ) -> None:
        super().__init__(parent)
        self._columns = columns
        self.overlays = Overlays()
        self._ticks: list[tuple[QAction, str, object]] = []
        self._changed = changed
        self.setText("show ▾")
        self.setToolTip("Ellipses, hulls, centroids, arrows, run order and more over the scores")
        self.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        self.choices = StayingMenu(self)
        self.choices.aboutToShow.connect(self.fill)
        self.setMenu(self.choices)
        self.fill()

    def fill(self) -> None:
        """The switches as they are now."""
        menu = self.choices
        menu.clear()
        self._ticks = []
        for key, words in ELLIPSES.items():
            self._add(words, "ellipses", key)
        coverage = self._sub_menu("coverage")
        for level in LEVELS:
            action = coverage.addAction(f"{shown(100 * level)} %")
            action.setCheckable(True)
            action.triggered.connect(
                lambda _=False, level=level: self.take(replace(self.overlays, level=level))
            )
            self._ticks.append((action, "level", level))
        names = self._sub_menu("names")
        for key, words in LABELS.items():
            self._add(words, "labels", key, names)
        names.addSeparator()
        for column in ("", *self._columns()):
            self._add(column or "id", "label_by", column, names)
        menu.addSeparator()
        for key, words in SWITCHES.items():
            self._add(words, key, True)
        self._tick()

    def turn(self, field: str, value: object) -> None:
        """Show something, or no longer where it is shown already."""
        shown = asdict(self.overlays)[field] == value
        self._choose(field, "none" if field == "ellipses" and shown else value)

    def take(self, overlays: Overlays) -> None:
        """Show other things."""
        self.overlays = overlays
        self._changed(overlays)
        self._tick()

    def _sub_menu(self, words: str) -> QMenu:
        menu = StayingMenu(words, self.choices)
        self.choices.addMenu(menu)
        return menu

    def _add(self, words: str, field: str, value: object, menu: QMenu | None = None) -> None:
        """A choice of a field's value; of one that is on or off, the switch."""
        action = (menu or self.choices).addAction(words)
        action.setCheckable(True)
        action.triggered.connect(lambda _=False: self._choose(field, value))
        self._ticks.append((action, field, value))

    def _choose(self, field: str, value: object) -> None:
        now = asdict(self.overlays)
        now[field] = not now[field] if value is True else value
        self.take(Overlays(**now))

    def _tick(self) -> None:
        """Tick what is shown now."""
        now = asdict(self.overlays)
        for action, field, value in self._ticks:
            action.setChecked(now[field] == value)
