"""What a gesture means, the same on every page: modifiers while picking, clicks on a class."""

from __future__ import annotations

from collections.abc import Iterable
from functools import partial
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt

from scutcher.desk.context import Desk
from scutcher.desk.widgets.class_menu import ask_on_legend
from scutcher.desk.widgets.legend import LegendRow
from scutcher.study.selection import Selection

if TYPE_CHECKING:
    from scutcher.desk.painting.plane import PlaneView
    from scutcher.desk.painting.strip import StripView


def pick(selection: Selection, rows: Iterable[int], modifiers: Qt.KeyboardModifier) -> None:
    """Pick samples: alone, added with Shift, toggled with Ctrl."""
    selection.pick(rows, how_of(modifiers))


def how_of(modifiers: Qt.KeyboardModifier) -> str:
    """What the keys held say of a pick."""
    if modifiers & Qt.KeyboardModifier.ShiftModifier:
        return "add"
    return "toggle" if modifiers & Qt.KeyboardModifier.ControlModifier else "replace"


def attend_strip(strip: StripView, selection: Selection) -> None:
    """What a strip tells of the pointer and of clicks on its lines goes to everybody."""
    strip.channel.connect(lambda channel: selection.change(channel=channel))
    strip.hovered.connect(lambda row: selection.change(hovered=row))
    strip.picked.connect(lambda row, modifiers: pick(selection, [row], modifiers))


def attend_plane(plane: PlaneView, selection: Selection) -> None:
    """What a plane tells of the pointer and of picks goes to everybody."""
    plane.hovered.connect(lambda row: selection.change(hovered=row))
    plane.picked.connect(lambda rows, modifiers: pick(selection, rows, modifiers))


class ClassClicks:
    """A click on a class fades the others, a double click shows it alone; the same again shows all.

    A right click opens its menu.
    """

    def __init__(self, legend: LegendRow, desk: Desk) -> None:
        self._attention = desk.selection
        self._was_alone = False
        legend.clicked.connect(self._on_click)
        legend.double_clicked.connect(self._on_double_click)
        legend.menu_asked.connect(partial(ask_on_legend, desk, legend))

    def _on_click(self, level: str) -> None:
        look = self._attention.look
        same = look.focus == level
        self._was_alone = same and look.alone
        self._attention.change(focus=None if same else level, alone=False)

    def _on_double_click(self, level: str) -> None:
        """Comes after the click: what was alone before that one stays taken back."""
        alone = not self._was_alone
        self._attention.change(focus=level if alone else None, alone=alone)
