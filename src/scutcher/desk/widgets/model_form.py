"""The settings of the model: engine, gaps, tolerance; each choice acts at once and moves nothing else."""

from __future__ import annotations

from typing import Any

from msgspec.structs import replace
from PySide6.QtCore import QSignalBlocker
from PySide6.QtWidgets import QFormLayout, QLineEdit, QWidget

from scutcher.core.errors import InputError
from scutcher.core.recipes.recipe import ModelSettings
from scutcher.core.words import shown, typed_number
from scutcher.desk.context import Desk, follow, follow_live
from scutcher.desk.widgets.combo import Combo
from scutcher.desk.widgets.popover import Popover
from scutcher.desk.words import Words
from scutcher.study.document.commands.recipe import ModelBy

ENGINES = {
    "auto": "automatic",
    "exact": "exact (full SVD)",
    "gram": "Gram matrix",
    "nipals": "NIPALS",
    "randomised": "randomised",
}
GAPS = {
    "leave-out-samples": "leave out samples",
    "leave-out-variables": "leave out variables",
    "fill-mean": "fill with the mean",
    "fill-median": "fill with the median",
    "nipals": "fit around (NIPALS)",
    "em": "fill by the model (EM)",
}
NUMBERS = {
    "gap_share": ("most gaps of a variable", float, 0.0, 0.99, "Share above which a variable is left out"),
    "tolerance": ("tolerance", float, 1e-15, 0.1, "Of NIPALS: the change of the scores that ends it"),
    "rounds": ("most iterations", int, 1, 10**7, "Of NIPALS: for each component"),
    "seed": ("seed", int, 0, 2**31, "Of the randomised engine"),
}


class ModelForm(Popover):
    """Opens beside the model's knot on the trail."""

    def __init__(self, window: QWidget, desk: Desk) -> None:
        super().__init__(window, "Settings of the model")
        self.desk = desk
        form = QFormLayout()
        form.setHorizontalSpacing(10)
        self.engine, self.gaps = Combo(), Combo()
        self.engine.addItems(list(ENGINES.values()))
        self.gaps.addItems(list(GAPS.values()))
        self.engine.setToolTip("How the components are computed; all give the same where they settle")
        self.gaps.setToolTip("What is done about values that are missing")
        self.engine.activated.connect(lambda place: self._change(engine=list(ENGINES)[place]))
        self.gaps.activated.connect(lambda place: self._change(gaps=list(GAPS)[place]))
        form.addRow("engine", self.engine)
        form.addRow("gaps", self.gaps)
        self.numbers: dict[str, QLineEdit] = {}
        for name, (words, _, _, _, tip) in NUMBERS.items():
            self.numbers[name] = line = QLineEdit()
            line.setFixedWidth(90)
            line.setToolTip(tip)
            line.editingFinished.connect(lambda name=name: self._typed(name))
            form.addRow(words, line)
        self.column.addLayout(form)
        self.note = Words()
        self.note.setObjectName("quiet")
        self.note.setWordWrap(True)
        self.column.addWidget(self.note)
        follow_live(self, desk, self.refresh)
        follow(self, desk.study, lambda changed: self.refresh())
        self.refresh()

    @property
    def settings(self) -> ModelSettings:
        """The settings of the study's model."""
        return self.desk.study.state.recipe.model

    def refresh(self) -> None:
        """Show the settings as they are, and which of them matter."""
        now = self.settings
        for box, words, value in ((self.engine, ENGINES, now.engine), (self.gaps, GAPS, now.gaps)):
            with QSignalBlocker(box):
                box.setCurrentIndex(list(words).index(value))
        found = self.desk.moment.found
        used = "" if found is None else found.decomposition.engine
        matter = {
            "gap_share": now.gaps == "leave-out-variables",
            "tolerance": "nipals" in (now.engine, now.gaps, used),
            "rounds": "nipals" in (now.engine, now.gaps, used),
            "seed": "randomised" in (now.engine, used),
        }
        for name, line in self.numbers.items():
            if not line.isModified():
                line.setText(shown(getattr(now, name)) if name != "seed" else str(now.seed))
            line.setEnabled(matter[name])
        self.note.setText(f"The engine that was used: {ENGINES.get(used, used)}." if used else "")

    def _change(self, **fields: Any) -> None:
        self.desk.do(ModelBy(replace(self.settings, **fields)))

    def _typed(self, name: str) -> None:
        line = self.numbers[name]
        _, kind, low, high, _ = NUMBERS[name]
        text = line.text().strip()
        line.setModified(False)
        try:
            value = int(text) if kind is int else typed_number(text)
        except ValueError:
            value = None
        if value is None or not low <= value <= high:
            self.desk.say(
                InputError(
                    f"{text!r} cannot be used here.", f"Type a number from {shown(low)} to {shown(high)}."
                )
            )
            self.refresh()
        elif value != getattr(self.settings, name):
            self._change(**{name: value})
