"""What a gesture means, the same on every page: modifiers while picking."""

from __future__ import annotations

from collections.abc import Iterable
from typing import TYPE_CHECKING

from PySide6.QtCore import Qt

from scutcher.study.selection import Selection

if TYPE_CHECKING:
    from scutcher.desk.painting.plane import PlaneView
    from scutcher.desk.painting.strip import StripView


def pick(selection: Selection, rows: Iterable[int], modifiers: Qt.KeyboardModifier) -> None:
    """Pick samples: alone, added with Shift, toggled with Ctrl."""
    selection.pick(rows, how_of(modifiers))


def how_of(modifiers: Qt.KeyboardModifier) -> str:
    """What the keys held say of a pick: Shift and Ctrl together keep what both have."""
    both = Qt.KeyboardModifier.ShiftModifier | Qt.KeyboardModifier.ControlModifier
    if modifiers & both == both:
        return "common"
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
