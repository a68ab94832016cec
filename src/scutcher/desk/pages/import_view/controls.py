"""How a file is cut and laid out, as small choices: what was found, or what a person says."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from pathlib import Path
from typing import Any

from PySide6.QtCore import QSignalBlocker, Signal
from PySide6.QtWidgets import QHBoxLayout, QLabel, QLineEdit, QPushButton, QVBoxLayout, QWidget

from scutcher.desk.widgets.combo import Combo
from scutcher.desk.words import Words
from scutcher.files.layout.reading import Reading
from scutcher.files.looking import Found
from scutcher.files.workbook import SUFFIXES, is_range, split_range

DELIMITERS = {"commas": ",", "semicolons": ";", "tabs": "\t", "bars": "|", "blanks": " "}
DECIMALS = {"1.5": ".", "1,5": ","}
THOUSANDS = {"none": "", "1,000": ",", "1.000": ".", "1 000": " ", "1'000": "'"}
SAMPLES = {"in rows": "rows", "in columns": "columns"}
FORMS = {"a table": "table", "a row for each value": "long", "x, y, x, y …": "pairs"}
DATES = {"as they show": "", "day first": "day-first", "month first": "month-first"}
JOINS = {
    "what fits": "",
    "under one another": "stack",
    "side by side, by id": "by-id",
    "only this one": "one",
}
ALL = "all that fit"
IMAGE_TIP = (
    "Rows x columns x channels : type : order + bytes to skip, as 64x96x160:uint16-big:cyx+512. Types "
    "float32, float64, uint8 … int32, -big where the first byte is the largest; yxc pixel by pixel, ycx row "
    "by row, cyx one whole picture after another"
)


class ReadingControls(QWidget):
    """Shows a reading, and what a person says of it.

    Attributes
    ----------
    said : Reading
        What a person has said; all else is found.
    """

    changed = Signal()
    refused = Signal(str)

    def __init__(self, path: Path, said: Reading, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.said = said
        self._row = QHBoxLayout()
        rows = QVBoxLayout(self)
        rows.setContentsMargins(0, 0, 0, 0)
        rows.setSpacing(4)
        rows.addLayout(self._row)
        self.sheet = self._choice("", {}, self._set_sheet, "Which sheet of the workbook, or which matrix")
        self.range = self._edit("", "all cells", 84, self._set_range, "The cells of the table, as in B3:K40")
        self.image = self._edit(
            "rows x columns x channels", "64x96x160:uint16:yxc", 230, self._set("image"), IMAGE_TIP
        )
        self.join = self._choice("", JOINS, self._set("join"), "How several sheets are put together")
        self.delimiter = self._choice(
            "cut at", DELIMITERS, self._set("delimiter"), "What stands between cells"
        )
        self.decimal = self._choice("decimal", DECIMALS, self._set("decimal"), "The decimal mark")
        self.thousands = self._choice(
            "thousands", THOUSANDS, self._set("thousands"), "The mark between thousands"
        )
        self.comment = self._edit("comment", "#", 30, self._set_comment, "What lines of comment begin with")
        self.dates = self._choice("dates", DATES, self._set("dates"), "How 3/4/2026 is meant")
        self._row.addStretch(1)
        self._row = QHBoxLayout()
        rows.addLayout(self._row)
        self.header = self._edit(
            "header row", "none", 52, self._set_header, "The row of the header, or two as in 1, 2; 0 for none"
        )
        self.first = self._edit("data from", "…", 52, self._set_row("first"), "The first row of data")
        self.last = self._edit("to", "end", 52, self._set_row("last"), "The last row of data")
        self.samples = self._choice("samples", SAMPLES, self._set("samples"), "How the samples stand")
        self.form = self._choice("it is", FORMS, self._set("form"), "How the values are laid out")
        self.again = QPushButton("Find it again")
        self.again.setToolTip("Forget what was said here: the reading is found by looking")
        self.again.clicked.connect(self.forget)
        self._row.addWidget(self.again)
        self._row.addStretch(1)
        self._text = (self.delimiter, self.comment)
        self._cells = (
            self.decimal, self.thousands, self.header, self.first, self.last, self.samples, self.form,
            self.dates,
        )  # fmt: skip
        self._book = (self.range, self.join)
        self._is_book = path.suffix.lower() in SUFFIXES

    def _choice(self, label: str, values: dict[str, str], act: Callable[[str], object], tip: str) -> Combo:
        box = Combo()
        for words, value in values.items():
            box.addItem(words, value)
        box.setToolTip(tip)
        box.textActivated.connect(lambda _: act(str(box.currentData() if values else box.currentText())))
        self._put(label, box)
        return box

    def _edit(self, label: str, hint: str, width: int, act: Callable[[str], object], tip: str) -> QLineEdit:
        line = QLineEdit()
        line.setPlaceholderText(hint)
        line.setFixedWidth(width)
        line.setToolTip(tip)
        line.editingFinished.connect(lambda: act(line.text().strip()) if line.isModified() else None)
        self._put(label, line)
        return line

    def _put(self, words: str, widget: QWidget) -> None:
        label = Words(words)
        label.setObjectName("quiet")
        label.setBuddy(widget)
        widget.setProperty("label", label)
        self._row.addWidget(label)
        self._row.addWidget(widget)

    def show_found(self, found: Found, reading: Reading | None) -> None:
        """Show how a file is laid out, and how it was read; None where it could not be."""
        is_text, has_cells = found.kind == "text", found.kind in ("text", "sheets")
        for widgets, shown in ((self._text, is_text), (self._cells, has_cells), (self._book, self._is_book)):
            for widget in widgets:
                _show(widget, shown)
        _show(self.image, found.kind == "numbers")
        _show(self.samples, has_cells or found.kind == "arrays")
        _show(self.sheet, len(found.sheets) > 1)
        _show(self.join, self._is_book and len(found.sheets) > 1)
        with QSignalBlocker(self.sheet):
            self.sheet.clear()
            self.sheet.addItems([*([ALL] if self._is_book else []), *found.sheets])
            sheet, cells = split_range(self.said.sheets[0] if self.said.sheets else "")
            self.sheet.setCurrentText(sheet or (ALL if self._is_book else self.sheet.itemText(0)))
        self.range.setText(cells)
        read = self.said.over(reading or Reading(delimiter=found.delimiter))
        for box, value in (
            (self.delimiter, read.delimiter), (self.decimal, read.decimal),
            (self.thousands, read.thousands or ""),
            (self.samples, read.samples), (self.form, read.form or "table"), (self.dates, read.dates),
            (self.join, read.join),
        ):  # fmt: skip
            with QSignalBlocker(box):
                box.setCurrentIndex(max(box.findData(value), 0))
        self.image.setText(read.image)
        self.header.setText(", ".join(map(str, read.header or ())))
        self.first.setText(str(read.first or ""))
        self.last.setText(str(read.last or ""))
        self.comment.setText(read.comment)
        self.again.setEnabled(self.said != Reading())

    def say(self, said: Reading) -> None:
        """Something else is said about the layout, beside what was said before."""
        self.said = said.over(self.said)
        self.changed.emit()

    def forget(self) -> None:
        """Nothing is said any more."""
        self.said = Reading()
        self.changed.emit()

    def _set(self, name: str) -> Callable[[str], None]:
        def act(value: str) -> None:
            self.said = _with(self.said, name, value)
            if name == "delimiter":  # rows and marks are found anew
                self.said = Reading(delimiter=value)
            if name == "decimal" and self.said.thousands == value:
                self.said = replace(self.said, thousands="")
            self.changed.emit()

        return act

    def _set_comment(self, sign: str) -> None:
        self.said = replace(self.said, comment=sign)
        self.changed.emit()

    def _set_header(self, text: str) -> None:
        rows = [part.strip() for part in text.split(",") if part.strip()]
        if not all(part.isdigit() for part in rows):
            self.refused.emit("The header row is a number, or two with a comma between.")
            return
        header = tuple(int(part) for part in rows if int(part) > 0) if rows else None
        self.said = replace(self.said, header=header, first=None)
        self.changed.emit()

    def _set_row(self, name: str) -> Callable[[str], None]:
        def act(text: str) -> None:
            if text and not text.isdigit():
                self.refused.emit("A row is a number.")
                return
            self.said = _with(self.said, name, int(text) if text else None)
            self.changed.emit()

        return act

    def _set_sheet(self, name: str) -> None:
        self.said = Reading(sheets=() if name == ALL else (name,))
        self.changed.emit()

    def _set_range(self, text: str) -> None:
        cells = text.upper()
        if cells and not is_range(cells):
            self.refused.emit(f"{cells} is no range of cells. Write it as B3:K40, or leave it empty.")
            return
        sheet = self.sheet.currentText()
        sheet = self.sheet.itemText(1) if sheet == ALL else sheet
        self.said = Reading(sheets=(f"{sheet}!{cells}",) if cells else (sheet,))
        self.changed.emit()


def _with(said: Reading, name: str, value: Any) -> Reading:
    """A reading of which one thing is said in another way."""
    changed: dict[str, Any] = {name: value}
    return replace(said, **changed)


def _show(widget: QWidget, shown: bool) -> None:
    """Show a control and its label, or neither."""
    widget.setVisible(shown)
    label = widget.property("label")
    if isinstance(label, QLabel):
        label.setVisible(shown and bool(label.text()))
