"""All models on the shelf as one table: figures side by side, and the settings in which they differ."""

from __future__ import annotations

from typing import Any

from PySide6.QtCore import QSize, Qt
from PySide6.QtGui import QIcon, QPainter, QPixmap
from PySide6.QtWidgets import (
    QHBoxLayout,
    QPlainTextEdit,
    QPushButton,
    QTableWidget,
    QTableWidgetItem,
    QWidget,
)

from scutcher.charts import colours
from scutcher.charts.words import with_minus
from scutcher.core.recipe import Recipe, recipe_to_plain
from scutcher.desk.desk_context import Desk
from scutcher.desk.panel import quiet_table
from scutcher.desk.popover import Popover
from scutcher.desk.shelf import paint_plane
from scutcher.study.commands.recipe import UseRecipe
from scutcher.study.state import Shelved

FIGURES = {
    "components": ("components", "{:.0f}"),
    "r2": ("R²", "{:.4f}"),
    "q2": ("Q²", "{:.4f}"),
    "separation": ("classes apart", "{:.3f}"),
    "replicates": ("replicate spread", "{:.3f}"),
    "samples": ("samples", "{:.0f}"),
    "variables": ("variables", "{:.0f}"),
}
ICON = QSize(64, 48)


class Compare(Popover):
    """One row for each model; two chosen rows are compared as text."""

    def __init__(self, window: QWidget, desk: Desk) -> None:
        super().__init__(window, "Models on the shelf")
        self.desk = desk
        models = desk.study.state.shelf
        differing = differences([model.recipe for model in models])
        used = [key for key in FIGURES if any(model.figure(key) is not None for model in models)]
        self.table = QTableWidget(len(models), 1 + len(used) + len(differing))
        quiet_table(self.table)
        self.table.setIconSize(ICON)
        self.table.verticalHeader().setDefaultSectionSize(52)
        self.table.setEditTriggers(QTableWidget.EditTrigger.NoEditTriggers)
        self.table.setHorizontalHeaderLabels(["model", *(FIGURES[key][0] for key in used), *differing])
        for row, model in enumerate(models):
            self._fill(row, model, used, differing)
        self.table.resizeColumnsToContents()
        self.table.setFixedSize(min(window.width() - 120, 900), min(60 + 54 * len(models), 320))
        self.table.itemSelectionChanged.connect(self._show_text)
        self.text = QPlainTextEdit()
        self.text.setReadOnly(True)
        self.text.setFixedHeight(150)
        self.text.setPlaceholderText("Choose one model to read its recipe, or two to see what differs.")
        take, close = QPushButton("Take this recipe"), QPushButton("Close")
        take.setObjectName("primary")
        take.clicked.connect(self._take)
        close.clicked.connect(self.dismiss)
        buttons = QHBoxLayout()
        buttons.addStretch(1)
        buttons.addWidget(close)
        buttons.addWidget(take)
        self.column.addWidget(self.table)
        self.column.addWidget(self.text)
        self.column.addLayout(buttons)

    def _fill(self, row: int, model: Shelved, used: list[str], differing: dict[str, list[str]]) -> None:
        name = QTableWidgetItem(QIcon(plane_pixmap(model, ICON)), model.name)
        self.table.setItem(row, 0, name)
        for column, key in enumerate(used, start=1):
            value = model.figure(key)
            cell = QTableWidgetItem("" if value is None else with_minus(FIGURES[key][1].format(value)))
            cell.setTextAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
            self.table.setItem(row, column, cell)
        for column, values in enumerate(differing.values(), start=1 + len(used)):
            self.table.setItem(row, column, QTableWidgetItem(values[row]))

    def _chosen(self) -> list[int]:
        return sorted({index.row() for index in self.table.selectionModel().selectedIndexes()})

    def _show_text(self) -> None:
        from scutcher.files.recipe_toml import recipe_text

        chosen, shelf = self._chosen(), self.desk.study.state.shelf
        if len(chosen) == 2:
            self.text.setPlainText(text_difference(shelf[chosen[0]], shelf[chosen[1]]))
        elif chosen:
            self.text.setPlainText(recipe_text(shelf[chosen[0]].recipe))

    def _take(self) -> None:
        chosen, shelf = self._chosen(), self.desk.study.state.shelf
        if chosen and self.desk.do(UseRecipe(shelf[chosen[0]].recipe, shelf[chosen[0]].name)):
            self.dismiss()


def plane_pixmap(model: Shelved, size: QSize) -> QPixmap:
    """The score plane of a model as a picture."""
    pixmap = QPixmap(size)
    pixmap.fill(colours.PAPER)
    painter = QPainter(pixmap)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    paint_plane(painter, pixmap.rect().toRectF().adjusted(4, 4, -4, -4), model, 1.5)
    painter.end()
    return pixmap


def differences(recipes: list[Recipe]) -> dict[str, list[str]]:
    """The settings in which recipes differ: setting → its value in each."""
    flat = [_flat(recipe_to_plain(recipe)) for recipe in recipes]
    keys = list(dict.fromkeys(key for plain in flat for key in plain))
    found = {key: [plain.get(key, "–") for plain in flat] for key in keys}
    return {
        key: values for key, values in found.items() if len(set(values)) > 1 and key != "model components"
    }


def _flat(plain: dict[str, Any]) -> dict[str, str]:
    found: dict[str, str] = {}
    steps = []
    for step in plain.get("treat", []):
        settings = ", ".join(f"{k} {v}" for k, v in step.items() if k not in ("method", "on"))
        off = " (off)" if step.get("on") is False else ""
        steps.append(f"{step['method']}{f' ({settings})' if settings else ''}{off}")
    found["treatments"] = " → ".join(steps) or "none"
    for section, settings in plain.items():
        if section != "treat":
            found |= {f"{section} {key}": str(value) for key, value in settings.items()}
    return found


def text_difference(one: Shelved, two: Shelved) -> str:
    """Two recipes as text, line by line, with what differs marked."""
    from difflib import unified_diff

    from scutcher.files.recipe_toml import recipe_text

    lines = unified_diff(
        recipe_text(one.recipe).splitlines(),
        recipe_text(two.recipe).splitlines(),
        one.name,
        two.name,
        lineterm="",
        n=99,
    )
    return "\n".join(lines) or "The two recipes are the same."
