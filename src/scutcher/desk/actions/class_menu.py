"""What can be done with a class from the legend: its colour and shape, its name, its samples."""

from __future__ import annotations

from functools import partial

import numpy as np
from PySide6.QtCore import QPoint, Qt
from PySide6.QtGui import QColor, QIcon, QPainter, QPixmap
from PySide6.QtWidgets import QMenu, QWidget

from scutcher.charts import colours
from scutcher.core.words import count_of
from scutcher.desk.actions.picked_samples import Acting
from scutcher.desk.context import Desk
from scutcher.desk.painting.markers import marker
from scutcher.study.document.commands.classes import Recolour

SWATCH = 16


def class_menu(desk: Desk, anchor: QWidget, level: str) -> QMenu:
    """The menu of a class; a colour that another class has is swapped with it."""
    state = desk.study.state
    assert state.table is not None
    column = state.table.class_column(state.colour_by)
    menu = QMenu(anchor)
    menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
    rows = np.flatnonzero(column.codes() == column.levels.index(level)).tolist()
    menu.addAction(f"Pick its {count_of(rows)}").triggered.connect(lambda: desk.selection.pick(rows))
    menu.addAction("Rename…").triggered.connect(lambda: Acting(desk, anchor.window()).rename(anchor, level))
    menu.addSeparator()
    for place in range(max(len(colours.CLASS_COLOURS), len(column.levels))):
        held = column.levels[place] if place < len(column.levels) else ""
        words = "its colour now" if held == level else f"swap with {held}" if held else "free"
        action = menu.addAction(_swatch(place), words)
        action.triggered.connect(partial(desk.do, Recolour(column.name, level, place)))
    return menu


def ask_on_legend(desk: Desk, anchor: QWidget, level: str, at: QPoint) -> None:
    """Open the menu of a class where it was asked for."""
    class_menu(desk, anchor, level).popup(at)


def _swatch(place: int) -> QIcon:
    """The marker of a place in its colour, sharp on dense screens."""
    picture = QPixmap(2 * SWATCH, 2 * SWATCH)
    picture.fill(Qt.GlobalColor.transparent)
    painter = QPainter(picture)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    painter.translate(SWATCH, SWATCH)
    painter.scale(1.5 * SWATCH, 1.5 * SWATCH)
    painter.setPen(Qt.PenStyle.NoPen)
    painter.setBrush(QColor(colours.class_colour(place)))
    painter.drawPath(marker(colours.class_shape(place)))
    painter.end()
    return QIcon(picture)
