"""A painter in our manner, for views that draw themselves."""

from __future__ import annotations

from PySide6.QtGui import QPainter
from PySide6.QtWidgets import QWidget


def painter_of(widget: QWidget, letters: int) -> QPainter:
    """A painter with smooth edges.

    Parameters
    ----------
    letters : their size in pixels
    """
    painter = QPainter(widget)
    painter.setRenderHint(QPainter.RenderHint.Antialiasing)
    font = painter.font()
    font.setPixelSize(letters)
    painter.setFont(font)
    return painter
