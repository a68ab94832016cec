"""How a figure is to look on paper: its words, its letters, its size; then SVG, PDF, EPS, TIFF or PNG."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace
from pathlib import Path

from PySide6.QtWidgets import (
    QCheckBox,
    QFileDialog,
    QFormLayout,
    QHBoxLayout,
    QLineEdit,
    QPushButton,
    QWidget,
)

from scutcher.charts.description import Chart
from scutcher.charts.figure import DOUBLE, SINGLE, Figure
from scutcher.charts.printing import check_kind, save_figure
from scutcher.core.errors import InputError
from scutcher.core.words import shown, typed_number
from scutcher.desk.actions.outcome import write_behind
from scutcher.desk.context import Desk
from scutcher.desk.widgets.combo import Combo
from scutcher.desk.widgets.popover import Popover

WIDTHS = {"one column (85 mm)": (SINGLE, 64.0), "two columns (176 mm)": (DOUBLE, 90.0)}


class SaveFigure(Popover):
    """Everything is filled in from the chart, and can be changed."""

    def __init__(
        self,
        window: QWidget,
        desk: Desk,
        chart: Chart,
        legend: tuple[tuple[int, str], ...],
        beside: Sequence[Chart] = (),
        names: tuple[tuple[float, float, str], ...] = (),
    ) -> None:
        super().__init__(window, "Save the figure")
        self.setMinimumWidth(380)
        self.desk, self.chart, self.legend = desk, chart, legend
        self.beside, self._names = tuple(beside), names
        self.title, self.x_title, self.y_title = (
            QLineEdit(t) for t in (chart.title, chart.x_title, chart.y_title)
        )
        self.width_box = Combo()
        self.width_box.addItems(list(WIDTHS))
        self.height_mm, self.points, self.dots = QLineEdit("64"), QLineEdit("8"), QLineEdit("600")
        self.width_box.activated.connect(
            lambda place: self.height_mm.setText(shown(list(WIDTHS.values())[place][1]))
        )
        self.x_ends, self.y_ends = _Ends(), _Ends()
        self.reverse = QCheckBox("from right to left (wavenumbers)")
        self.names = QCheckBox("names beside the picked samples")
        self.names.setChecked(bool(names))
        self.names.setEnabled(bool(names))
        self.panels = QCheckBox(f"all {len(self.beside)} charts of this page, with letters")
        self.panels.setEnabled(len(self.beside) > 1)
        form = QFormLayout()
        for word, field in (
            ("title", self.title),
            ("across", self.x_title),
            ("upright", self.y_title),
            ("width", self.width_box),
            ("height / mm", self.height_mm),
            ("letters / pt", self.points),
            ("dots an inch (PNG, TIFF)", self.dots),
            ("across from, to", self.x_ends),
            ("upright from, to", self.y_ends),
            ("", self.reverse),
            ("", self.names),
            ("", self.panels),
        ):
            form.addRow(word, field)
        self.column.addLayout(form)
        save, cancel = QPushButton("Save…"), QPushButton("Cancel")
        save.setObjectName("primary")
        save.clicked.connect(self._ask)
        cancel.clicked.connect(self.dismiss)
        row = QHBoxLayout()
        row.addStretch(1)
        row.addWidget(cancel)
        row.addWidget(save)
        self.column.addLayout(row)

    def figure(self) -> Figure:
        """The figure as asked for.

        Raises
        ------
        InputError
            A size is not a number, or out of range.
        """
        width = list(WIDTHS.values())[self.width_box.currentIndex()][0]
        height = _number(self.height_mm.text(), "height", 20.0, 400.0)
        points = _number(self.points.text(), "size of the letters", 4.0, 30.0)
        dots = int(_number(self.dots.text(), "number of dots", 50.0, 1200.0))
        words = (self.title.text(), self.x_title.text(), self.y_title.text())
        return Figure(
            width,
            height,
            points,
            *words,
            dots,
            self.legend,
            self.x_ends.ends("across"),
            self.y_ends.ends("upright"),
            self.reverse.isChecked(),
            self._names if self.names.isChecked() else (),
        )

    def save(self, path: Path) -> bool:
        """Write the figure behind; whether its words and numbers can be used."""
        try:
            check_kind(path)
            wanted = self.beside if self.panels.isChecked() else self.chart
            figure = self.figure()
            if self.panels.isChecked():  # ranges and names are those of one chart
                figure = replace(figure, x_range=(None, None), y_range=(None, None), reverse=False, names=())
        except InputError as error:
            self.desk.say(error)
            return False
        return write_behind(self.desk, "The figure is", path, lambda watch: save_figure(wanted, path, figure))

    def _ask(self) -> None:
        name, _ = QFileDialog.getSaveFileName(
            self.window(),
            "Save the figure",
            "figure.svg",
            "SVG (*.svg);;PDF (*.pdf);;EPS (*.eps);;TIFF (*.tif);;PNG (*.png)",
        )
        if name and self.save(Path(name)):
            self.dismiss()


class _Ends(QWidget):
    """Two fields for the ends of an axis; an empty one follows the data."""

    def __init__(self) -> None:
        super().__init__()
        self.low, self.high = QLineEdit(), QLineEdit()
        row = QHBoxLayout(self)
        row.setContentsMargins(0, 0, 0, 0)
        for field in (self.low, self.high):
            field.setPlaceholderText("all")
            row.addWidget(field)

    def ends(self, which: str) -> tuple[float | None, float | None]:
        """What was typed.

        Raises
        ------
        InputError
            It is no number, or the ends are the same.
        """
        texts = [field.text().strip() for field in (self.low, self.high)]
        what = f"end of the {which} axis"
        low, high = (_number(text, what, -1e300, 1e300) if text else None for text in texts)
        if low is not None and low == high:
            raise InputError(
                f"Both ends of the {which} axis are {shown(low)}.", "Type two different numbers."
            )
        return low, high


def _number(text: str, what: str, low: float, high: float) -> float:
    try:
        value = typed_number(text)
    except ValueError:
        value = float("nan")
    if not low <= value <= high:
        raise InputError(f"The {what} is {text!r}.", f"Type a number from {shown(low)} to {shown(high)}.")
    return value
