"""The form of a treatment's parameters, made from its declaration; tells every value while it moves."""

from __future__ import annotations

import math
import re
from collections.abc import Callable
from typing import Any

import msgspec
from PySide6.QtCore import QSignalBlocker, Qt, Signal
from PySide6.QtWidgets import QCheckBox, QGridLayout, QLineEdit, QSlider, QWidget

from scutcher.core.data.regions import regions_text
from scutcher.core.data.table import Table
from scutcher.core.treatments.base import Field, Parameters, fields_of
from scutcher.core.words import shown, typed_number
from scutcher.desk.widgets.combo import Combo
from scutcher.desk.words import Words

STEPS = 400
NUMBER = r"-?\d+(?:[.,]\d*)?|-?[.,]\d+"
WORDS = {"column": "class column", "level": "class", "most": "largest shift", "by": "measure"}


class ParameterForm(QWidget):
    """One row for each parameter: its name, a slider or a choice, its value, its unit.

    `changing` tells parameters while a slider is held, `changed` those it was let go at.
    """

    changing = Signal(object)
    changed = Signal(object)
    refused = Signal(str)

    def __init__(self, parameters: Parameters, table: Table, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.parameters = parameters
        self.table = table
        self.editors: dict[str, QWidget] = {}
        self.sliders: dict[str, QSlider] = {}
        self._setters: dict[str, Callable[[Any], None]] = {}
        grid = QGridLayout(self)
        grid.setContentsMargins(10, 2, 10, 6)
        grid.setHorizontalSpacing(8)
        grid.setVerticalSpacing(5)
        grid.setColumnStretch(1, 1)
        for row, field in enumerate(fields_of(type(parameters))):
            self._add(grid, row, field)
        self.show_parameters(parameters)

    def show_parameters(self, parameters: Parameters) -> None:
        """Put other values in, without telling anybody."""
        self.parameters = parameters
        for name, put in self._setters.items():
            put(getattr(parameters, name))

    def set_value(self, name: str, value: object, finished: bool = True) -> None:
        """Give one parameter a value, as if it had been entered."""
        plain = {**msgspec.to_builtins(self.parameters), name: msgspec.to_builtins(value)}
        try:
            fresh = msgspec.convert(plain, type(self.parameters))
        except msgspec.ValidationError as error:
            self.refused.emit(f"{WORDS.get(name, name)}: {str(error).split(' - ')[0]}.")
            self.show_parameters(self.parameters)
            return
        if fresh != self.parameters:
            self.show_parameters(fresh)
        (self.changed if finished else self.changing).emit(fresh)

    def _add(self, grid: QGridLayout, row: int, field: Field) -> None:
        label = Words(WORDS.get(field.name, field.name.replace("_", " ")))
        label.setToolTip(field.help)
        grid.addWidget(label, row, 0)
        if field.kind == "choice":
            self._add_choice(grid, row, field, list(field.choices))
        elif field.kind == "bool":
            self._add_switch(grid, row, field)
        elif field.kind in ("int", "float"):
            self._add_number(grid, row, field)
        elif field.kind == "regions" and field.of != "sample":
            self._add_regions(grid, row, field)
        elif field.kind == "regions":
            self._add_list(grid, row, field)
        else:
            self._add_choice(grid, row, field, self._names(field), editable=field.of == "sample")

    def _names(self, field: Field) -> list[str]:
        """What a text parameter can name in these data."""
        table = self.table
        if field.of == "class column":
            return ["", *(column.name for column in table.classes)]
        if field.of == "class":
            return ["", *(level for column in table.classes for level in column.names)]
        if field.of == "property":
            return ["", *(column.name for column in table.properties)]
        return ["", *table.ids]

    def _add_choice(
        self, grid: QGridLayout, row: int, field: Field, names: list[str], editable: bool = False
    ) -> None:
        box = Combo()
        box.setToolTip(field.help)
        box.setEditable(editable)
        box.setInsertPolicy(Combo.InsertPolicy.NoInsert)
        plain = field.kind == "choice"
        box.offer([(str(name).replace("-", " ") if plain else str(name)) or "first" for name in names])
        box.activated.connect(lambda place: self.set_value(field.name, names[place]))
        line = box.lineEdit()
        if line is not None:
            line.editingFinished.connect(lambda: self._named(field, box, names))

        def put(value: Any) -> None:
            with QSignalBlocker(box):
                if value in names:
                    box.setCurrentIndex(names.index(value))
                else:
                    box.setEditText(str(value))

        grid.addWidget(box, row, 1, 1, 3)
        self._keep(field.name, box, put)

    def _named(self, field: Field, box: Combo, names: list[str]) -> None:
        """A name was typed; one that these data do not have is said."""
        text = box.currentText().strip()
        name = "" if text == "first" else text
        if name == getattr(self.parameters, field.name):
            return
        if name in names:
            self.set_value(field.name, name)
        else:
            self.refused.emit(f"There is no {field.of} {name!r} in these data.")
            self.show_parameters(self.parameters)

    def _add_switch(self, grid: QGridLayout, row: int, field: Field) -> None:
        switch = QCheckBox(field.help)
        switch.clicked.connect(lambda on: self.set_value(field.name, bool(on)))

        def put(value: Any) -> None:
            with QSignalBlocker(switch):
                switch.setChecked(bool(value))

        grid.addWidget(switch, row, 1, 1, 3)
        self._keep(field.name, switch, put)

    def _add_number(self, grid: QGridLayout, row: int, field: Field) -> None:
        edit = QLineEdit()
        edit.setFixedWidth(72)
        edit.setAlignment(Qt.AlignmentFlag.AlignRight)
        edit.setToolTip(field.help)
        edit.editingFinished.connect(lambda: self._typed(field, edit))
        scale = _Scale(field)
        slider = QSlider(Qt.Orientation.Horizontal)
        slider.setRange(0, scale.steps)
        slider.setToolTip(field.help)
        slider.setAccessibleName(field.name.replace("_", " "))
        slider.setMinimumWidth(80)
        slider.valueChanged.connect(
            lambda place: self.set_value(field.name, scale.value(place), not slider.isSliderDown())
        )
        slider.sliderReleased.connect(lambda: self.changed.emit(self.parameters))

        def put(value: Any) -> None:
            if not edit.hasFocus() or not edit.isModified():
                edit.setText(shown(value, ".6g") if isinstance(value, float) else str(value))
            with QSignalBlocker(slider):
                slider.setValue(scale.place(value))

        if scale.steps > 0:
            grid.addWidget(slider, row, 1)
            self.sliders[field.name] = slider
        grid.addWidget(edit, row, 2)
        unit = Words(self.table.axis.unit if field.unit == "axis" else field.unit)
        unit.setObjectName("quiet")
        grid.addWidget(unit, row, 3)
        self._keep(field.name, edit, put)

    def _typed(self, field: Field, edit: QLineEdit) -> None:
        """A number was entered; one that cannot be is said, and the last good one stands there again."""
        text = edit.text()
        edit.setModified(False)
        try:
            value = int(text) if field.kind == "int" else typed_number(text)
        except ValueError:
            self.refused.emit(f"{text!r} is not a number.")
            self.show_parameters(self.parameters)
            return
        if value != getattr(self.parameters, field.name):
            self.set_value(field.name, value)

    def _add_regions(self, grid: QGridLayout, row: int, field: Field) -> None:
        edit = QLineEdit()
        edit.setPlaceholderText("drag on the picture, or 1100–1880, 1960–2500")
        edit.setToolTip(field.help)
        edit.editingFinished.connect(lambda: self._typed_regions(field, edit.text()))

        def put(value: Any) -> None:
            edit.setText(regions_text(value))

        grid.addWidget(edit, row, 1, 1, 3)
        self._keep(field.name, edit, put)

    def _typed_regions(self, field: Field, text: str) -> None:
        regions = parsed_regions(text)
        if regions is None:
            self.refused.emit(f"{text!r} is not a list of regions; write them as 1100–1880, 1960–2500.")
            self.show_parameters(self.parameters)
        elif regions_text(regions) != regions_text(getattr(self.parameters, field.name)):
            self.set_value(field.name, regions)

    def _add_list(self, grid: QGridLayout, row: int, field: Field) -> None:
        edit = QLineEdit()
        edit.setPlaceholderText("sample ids, separated by commas")
        edit.setToolTip(field.help)

        def typed() -> None:
            names = tuple(name.strip() for name in edit.text().split(",") if name.strip())
            if names != getattr(self.parameters, field.name):
                self.set_value(field.name, names)

        edit.editingFinished.connect(typed)
        grid.addWidget(edit, row, 1, 1, 3)
        self._keep(field.name, edit, lambda value: edit.setText(", ".join(value)))

    def _keep(self, name: str, editor: QWidget, put: Callable[[Any], None]) -> None:
        editor.setAccessibleName(name.replace("_", " "))
        self.editors[name] = editor
        self._setters[name] = put


def parsed_regions(text: str) -> tuple[tuple[float, float], ...] | None:
    """`1100–1880, 1960–2500` as pairs; None where it is not that."""
    found = []
    for part in filter(None, (piece.strip() for piece in re.split(r"[,;]\s", text + " "))):
        match = re.fullmatch(rf"({NUMBER})\s*[–—-]\s*({NUMBER})\D*", part)
        if match is None:
            return None
        found.append((float(match[1].replace(",", ".")), float(match[2].replace(",", "."))))
    return tuple(found)


class _Scale:
    """Places of a slider and the values they stand for."""

    def __init__(self, field: Field) -> None:
        low, high = field.slider or (field.low, field.high)
        self.log, self.whole = field.log, field.kind == "int"
        self.low, self.high = (0.0, 0.0) if low is None or high is None else (float(low), float(high))
        self.every = 2 if field.name == "window" else 1
        if self.whole:
            self.steps = int((self.high - self.low) // self.every)
        else:
            self.steps = STEPS if self.high > self.low else 0

    def value(self, place: int) -> int | float:
        """The value at a place."""
        if self.whole:
            return int(self.low) + place * self.every
        share = place / self.steps
        if self.log:
            return float(f"{10 ** (math.log10(self.low) + share * math.log10(self.high / self.low)):.3g}")
        return float(f"{self.low + share * (self.high - self.low):.4g}")

    def place(self, value: float) -> int:
        """The place of a value, as near as it comes."""
        if not self.steps:
            return 0
        if self.whole:
            return round((value - self.low) / self.every)
        if self.log:
            share = math.log10(max(value, self.low) / self.low) / math.log10(self.high / self.low)
        else:
            share = (value - self.low) / (self.high - self.low)
        return round(min(max(share, 0.0), 1.0) * self.steps)
