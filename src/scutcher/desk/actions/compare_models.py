"""All models on the shelf as one table: figures side by side, and the settings in which they differ."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from PySide6.QtCore import QSize
from PySide6.QtGui import QIcon, QPainter, QPixmap
from PySide6.QtWidgets import (
    QHBoxLayout,
    QPlainTextEdit,
    QPushButton,
    QWidget,
)

from scutcher.charts import colours
from scutcher.charts.shelf_figures import FIGURES, figure_cells, figure_keys
from scutcher.core.errors import InputError
from scutcher.core.recipes.recipe import Recipe, recipe_to_plain
from scutcher.desk.context import Desk
from scutcher.desk.trail.shelf import paint_plane
from scutcher.desk.widgets.figures_table import FiguresTable
from scutcher.desk.widgets.popover import Popover
from scutcher.study.document.commands.recipe import UseRecipe
from scutcher.study.document.parts import TOGETHER, Model

ICON = QSize(64, 48)


class Compare(Popover):
    """One row for each model; two chosen rows are compared as text."""

    def __init__(
        self, window: QWidget, desk: Desk, side_by_side: Callable[[str, str], object] = lambda a, b: None
    ) -> None:
        super().__init__(window, "Models of this study")
        self.desk, self._side_by_side = desk, side_by_side
        models = desk.study.state.named
        differing = differences([model.recipe for model in models])
        used = figure_keys(models)
        header = ["model", *(FIGURES[key][0] for key in used), *differing]
        self.table = FiguresTable(header, figures=range(1, 1 + len(used)))
        self.table.setIconSize(ICON)
        self.table.verticalHeader().setDefaultSectionSize(52)
        self.table.show_rows(
            (model.name, *figure_cells(model, used), *(values[row] for values in differing.values()))
            for row, model in enumerate(models)
        )
        for row, model in enumerate(models):
            self.table.cell(row, 0).setIcon(QIcon(plane_pixmap(model, ICON)))
        self.table.resizeColumnsToContents()
        self.table.setFixedSize(min(window.width() - 120, 900), min(60 + 54 * len(models), 320))
        self.table.itemSelectionChanged.connect(self._show_text)
        self.text = QPlainTextEdit()
        self.text.setReadOnly(True)
        self.text.setFixedHeight(150)
        self.text.setPlaceholderText("Choose one model to read its recipe, or two to see what differs.")
        take, close = QPushButton("Take this recipe"), QPushButton("Close")
        self.beside = QPushButton("Side by side")
        self.beside.setObjectName("primary")
        self.beside.setToolTip("Two chosen models beside each other; of one, beside the one of now")
        self.beside.clicked.connect(self._put_beside)
        take.clicked.connect(self._take)
        close.clicked.connect(self.dismiss)
        buttons = QHBoxLayout()
        buttons.addStretch(1)
        for button in (close, take, self.beside):
            buttons.addWidget(button)
        self.column.addWidget(self.table)
        self.column.addWidget(self.text)
        self.column.addLayout(buttons)

    def _chosen(self) -> list[int]:
        return sorted({index.row() for index in self.table.selectionModel().selectedIndexes()})

    def _show_text(self) -> None:
        from scutcher.files.recipe_toml import recipe_text

        chosen, shelf = self._chosen(), self.desk.study.state.named
        if len(chosen) == 2:
            self.text.setPlainText(text_difference(shelf[chosen[0]], shelf[chosen[1]]))
        elif chosen:
            self.text.setPlainText(recipe_text(shelf[chosen[0]].recipe))

    def _put_beside(self) -> None:
        chosen = [self.desk.study.state.named[row].id for row in self._chosen()[:2]]
        current = self.desk.study.state.current
        if len(chosen) < 2:
            chosen = [current, *(key for key in chosen if key != current)]
        self.dismiss()
        self._side_by_side(chosen[0], chosen[1] if len(chosen) > 1 else "")

    def _take(self) -> None:
        chosen, shelf = self._chosen(), self.desk.study.state.named
        if chosen and shelf[chosen[0]].kind == TOGETHER:
            words = "This is made of several tables, each with a recipe of its own."
            self.desk.say(InputError(words, "Open it from the shelf."))
        elif chosen and self.desk.do(UseRecipe(shelf[chosen[0]].recipe, shelf[chosen[0]].name)):
            self.dismiss()


def plane_pixmap(model: Model, size: QSize) -> QPixmap:
    """The score plane of a model as a picture."""
    pixmap = QPixmap(size)
    pixmap.fill(colours.PAPER)
    painter = QPainter(pixmap)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    paint_plane(painter, pixmap.rect().toRectF().adjusted(4, 4, -4, -4), model.reached, 1.5)
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
            found |= {f"{section} {key}": _said(value) for key, value in settings.items()}
    return found


def _said(value: Any) -> str:
    """A setting in a cell: of a list of tables their names."""
    if isinstance(value, (list, tuple)) and value and isinstance(value[0], dict):
        return ", ".join(str(one.get("name", "?")) for one in value)
    return str(value)


def text_difference(one: Model, two: Model) -> str:
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
