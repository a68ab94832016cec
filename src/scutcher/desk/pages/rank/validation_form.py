"""The held-out check: what is left out, in how many parts, and how far it is."""

from __future__ import annotations

from typing import Any

from msgspec.structs import replace
from PySide6.QtCore import QSignalBlocker, Qt
from PySide6.QtWidgets import QFrame, QGridLayout, QLineEdit, QProgressBar, QToolButton, QWidget

from scutcher.core.errors import InputError
from scutcher.core.recipes.recipe import ValidateSettings
from scutcher.desk.context import Desk, follow
from scutcher.desk.widgets.combo import Combo
from scutcher.desk.words import Words
from scutcher.study.document.commands.recipe import ValidateBy

SCHEMES = {
    "random": "random parts",
    "blinds": "venetian blinds",
    "blocks": "contiguous blocks",
    "one-out": "one at a time",
    "class": "class by class",
    "tiles": "squares of the picture",
    "images": "image by image",
    "none": "no validation",
}


class CheckForm(QFrame):
    """Choices that act at once; a line of progress with a stop."""

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("panel")
        self.desk = desk
        grid = QGridLayout(self)
        grid.setContentsMargins(10, 7, 10, 8)
        grid.setHorizontalSpacing(8)
        grid.setVerticalSpacing(4)
        title = Words("Held-out check")
        title.setObjectName("strong")
        grid.addWidget(title, 0, 0, 1, 4)
        self.scheme, self.column = Combo(), Combo()
        self.scheme.addItems(list(SCHEMES.values()))
        self.scheme.activated.connect(lambda place: self._change(scheme=list(SCHEMES)[place]))
        self.column.activated.connect(lambda place: self._change(column=self.column.itemText(place)))
        self.numbers = {name: QLineEdit() for name in ("segments", "repeats", "block", "seed")}
        for name, edit in self.numbers.items():
            edit.setFixedWidth(64)
            edit.setAlignment(Qt.AlignmentFlag.AlignRight)
            edit.editingFinished.connect(lambda name=name: self._typed(name))
        tips = {
            "segments": "Parts that are left out in turn; empty: the smaller of 7 and the number of groups",
            "repeats": "How often random parts are dealt anew",
            "block": "Variables predicted together: a neighbour on an ordered axis gives a channel away, so "
            "a block of one flatters. Empty: 1 for a table, p/20 for an ordered axis",
            "seed": "Of everything drawn at random: the same seed gives the same parts",
        }
        grid.addWidget(Words("leave out"), 1, 0)
        grid.addWidget(self.scheme, 1, 1, 1, 2)
        grid.addWidget(self.column, 1, 3)
        for place, (name, word) in enumerate(
            {"segments": "parts", "repeats": "repeats", "block": "channels together", "seed": "seed"}.items()
        ):
            label = Words(word)
            label.setToolTip(tips[name])
            self.numbers[name].setToolTip(tips[name])
            self.numbers[name].setAccessibleName(word)
            grid.addWidget(label, 2 + place // 2, 2 * (place % 2))
            grid.addWidget(self.numbers[name], 2 + place // 2, 2 * (place % 2) + 1)
        self.note = Words()
        self.note.setObjectName("quiet")
        self.note.setWordWrap(True)
        grid.addWidget(self.note, 5, 0, 1, 4)
        self.progress = QProgressBar()
        self.progress.setTextVisible(False)
        self.progress.setRange(0, 100)
        self.stop = QToolButton()
        self.stop.setText("stop")
        self.stop.setToolTip("Stop the validation that is under way")
        self.stop.clicked.connect(desk.live.stop_checking)
        grid.addWidget(self.progress, 6, 0, 1, 3)
        grid.addWidget(self.stop, 6, 3)
        follow(self, desk.live, lambda changed: self.refresh())
        follow(self, desk.study, lambda changed: self.refresh())
        self.refresh()

    def refresh(self) -> None:
        """Show the settings, what came of them, and how far it is."""
        state, live = self.desk.study.state, self.desk.live
        settings = state.recipe.validate
        with QSignalBlocker(self.scheme):
            self.scheme.setCurrentIndex(list(SCHEMES).index(settings.scheme))
        names = [] if state.table is None else [column.name for column in state.table.classes]
        with QSignalBlocker(self.column):
            self.column.clear()
            self.column.addItems(names)
            if settings.column in names:
                self.column.setCurrentText(settings.column)
        self.column.setVisible(settings.scheme == "class")
        for name, edit in self.numbers.items():
            value = getattr(settings, name)
            if not edit.hasFocus() and not edit.isModified():
                edit.setText("" if value is None else str(value))
        self.note.setText(self._words())
        busy = live.checking is not None
        policy = self.progress.sizePolicy()
        policy.setRetainSizeWhenHidden(True)
        for widget in (self.progress, self.stop):
            widget.setSizePolicy(policy)
            widget.setVisible(busy)
        self.progress.setValue(int(100 * (live.checking or 0.0)))

    def _words(self) -> str:
        checked, found = self.desk.moment.checked, self.desk.moment.found
        kept = "Replicates stay together. " if found is not None and found.part.replicates is not None else ""
        iterations = (
            "" if found is None else ", ".join(map(str, found.decomposition.iterations[: found.model.k]))
        )
        told = f"NIPALS iterations: {iterations}. " if iterations else ""
        unsettled = () if found is None else found.decomposition.unsettled
        told += f"Component {', '.join(map(str, unsettled))} did not converge. " if unsettled else ""
        if checked is None:
            return f"{kept}{told}Treatments that learn from the set are refitted inside each part."
        if checked.validation is None:
            return f"{told}No held-out figures: {checked.why_not}"
        validation = checked.validation
        self.numbers["segments"].setPlaceholderText(str(validation.segments))
        self.numbers["block"].setPlaceholderText(str(validation.block))
        return (
            f"{kept}{told}{validation.segments} parts, {validation.block} channels together. "
            "What learns from the set is refitted inside each part."
        )

    def _change(self, **fields: Any) -> None:
        settings: ValidateSettings = self.desk.study.state.recipe.validate
        self.desk.do(ValidateBy(replace(settings, **fields)))

    def _typed(self, name: str) -> None:
        self.numbers[name].setModified(False)
        text = self.numbers[name].text().strip()
        least = {"segments": 2, "repeats": 1, "block": 1, "seed": 0}[name]
        settings = self.desk.study.state.recipe.validate
        if not text and name in ("segments", "block"):
            value: int | None = None
        else:
            try:
                value = int(text)
            except ValueError:
                value = -1
            if value < least:
                self.desk.say(
                    InputError(
                        f"{text!r} cannot be used here.",
                        f"Type a whole number from {least} up; nothing was changed.",
                    )
                )
                self.numbers[name].setText(str(getattr(settings, name) or ""))
                return
        if value != getattr(settings, name):
            self._change(**{name: value})
