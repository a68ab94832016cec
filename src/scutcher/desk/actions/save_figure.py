"""How a figure is to look on paper: its words, its letters, its size; then SVG, PDF, EPS, TIFF or PNG."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtWidgets import QFileDialog, QFormLayout, QHBoxLayout, QLineEdit, QPushButton, QWidget

from scutcher.charts.description import Chart
from scutcher.charts.printing import DOUBLE, SINGLE, Figure, save_figure
from scutcher.core.errors import InputError
from scutcher.desk.context import Desk
from scutcher.desk.widgets.combo import Combo
from scutcher.desk.widgets.popover import Popover

WIDTHS = {"one column (85 mm)": (SINGLE, 64.0), "two columns (176 mm)": (DOUBLE, 90.0)}


class SaveFigure(Popover):
    """Everything is filled in from the chart, and can be changed."""

    def __init__(
        self, window: QWidget, desk: Desk, chart: Chart, legend: tuple[tuple[int, str], ...]
    ) -> None:
        super().__init__(window, "Save the figure")
        self.setMinimumWidth(380)
        self.desk, self.chart, self.legend = desk, chart, legend
        self.title, self.x_title, self.y_title = (
            QLineEdit(t) for t in (chart.title, chart.x_title, chart.y_title)
        )
        self.width_box = Combo()
        self.width_box.addItems(list(WIDTHS))
        self.height_mm, self.points, self.dots = QLineEdit("64"), QLineEdit("8"), QLineEdit("600")
        self.width_box.activated.connect(
            lambda place: self.height_mm.setText(f"{list(WIDTHS.values())[place][1]:g}")
        )
        form = QFormLayout()
        for word, field in (
            ("title", self.title),
            ("across", self.x_title),
            ("upright", self.y_title),
            ("width", self.width_box),
            ("height / mm", self.height_mm),
            ("letters / pt", self.points),
            ("dots an inch (PNG, TIFF)", self.dots),
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
        return Figure(width, height, points, *words, dots, self.legend)

    def save(self, path: Path) -> bool:
        """Write the figure; the answer is whether it is there."""
        try:
            save_figure(self.chart, path, self.figure())
        except InputError as error:
            self.desk.say(error)
            return False
        return True

    def _ask(self) -> None:
        name, _ = QFileDialog.getSaveFileName(
            self.window(),
            "Save the figure",
            "figure.svg",
            "SVG (*.svg);;PDF (*.pdf);;EPS (*.eps);;TIFF (*.tif);;PNG (*.png)",
        )
        if name and self.save(Path(name)):
            self.dismiss()


def _number(text: str, what: str, low: float, high: float) -> float:
    try:
        value = float(text.replace(",", "."))
    except ValueError:
        value = float("nan")
    if not low <= value <= high:
        raise InputError(f"The {what} is {text!r}.", f"Type a number from {low:g} to {high:g}.")
    return value
