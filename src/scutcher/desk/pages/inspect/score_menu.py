"""What is laid over the score plane: a menu of switches, each acting at once."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from PySide6.QtWidgets import QMenu, QToolButton, QWidget

from scutcher.charts.overlays import Overlays

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
        self._changed = changed
        self.setText("show ▾")
        self.setToolTip("Ellipses, hulls, centroids, arrows, run order and more over the scores")
        self.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        self.choices = QMenu(self)
        self.choices.aboutToShow.connect(self.fill)
        self.setMenu(self.choices)
        self.fill()

    def fill(self) -> None:
        """The switches as they are now."""
        menu, now = self.choices, self.overlays
        menu.clear()
        for key, words in ELLIPSES.items():
            self._add(words, now.ellipses == key, replace(now, ellipses=key))
        coverage = menu.addMenu("coverage")
        for level in LEVELS:
            action = coverage.addAction(f"{100 * level:g} %")
            action.setCheckable(True)
            action.setChecked(now.level == level)
            action.triggered.connect(
                lambda _=False, level=level: self.take(replace(self.overlays, level=level))
            )
        names = menu.addMenu("names")
        for key, words in LABELS.items():
            self._add(words, now.labels == key, replace(now, labels=key), names)
        names.addSeparator()
        for column in ("", *self._columns()):
            self._add(column or "id", now.label_by == column, replace(now, label_by=column), names)
        menu.addSeparator()
        for key, words in SWITCHES.items():
            on = bool(getattr(now, key))
            self._add(words, on, replace(now, **{key: not on}))  # type: ignore[arg-type]

    def take(self, overlays: Overlays) -> None:
        """Show other things."""
        self.overlays = overlays
        self._changed(overlays)

    def _add(self, words: str, on: bool, then: Overlays, menu: QMenu | None = None) -> None:
        action = (menu or self.choices).addAction(words)
        action.setCheckable(True)
        action.setChecked(on)
        action.triggered.connect(lambda _=False: self.take(then))
