"""What map views share: the lens, and what they are handed to draw."""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np
from PySide6.QtCore import QPointF
from PySide6.QtGui import QTransform

from scutcher.charts.description import Chart
from scutcher.core.data.layouts import GridLayout
from scutcher.core.frozen import frozen
from scutcher.study.document.announcer import Announcer

MOST_ZOOM = 80.0


class Lens(Announcer):
    """What part of a picture is looked at: the same for all maps that share it."""

    def __init__(self) -> None:
        super().__init__()
        self.scale, self.centre = 1.0, QPointF(0.5, 0.5)
        self.turns, self.mirrored = 0, False

    def turn(self, turns: int, mirrored: bool) -> None:
        """So many quarters of a turn to the right, after left and right were exchanged or not."""
        self.turns, self.mirrored = turns % 4, mirrored
        self.whole()

    def laid(self, rows: float, columns: float) -> tuple[float, float]:
        """Rows and columns as they lie on screen."""
        return (columns, rows) if self.turns % 2 else (rows, columns)

    def orientation(self, rows: float, columns: float) -> QTransform:
        """From pixels of the picture to pixels as they lie on screen."""
        found = QTransform(-1.0, 0.0, 0.0, 1.0, columns, 0.0) if self.mirrored else QTransform()
        for _ in range(self.turns):
            found = found * QTransform(0.0, 1.0, -1.0, 0.0, rows, 0.0)
            rows, columns = columns, rows
        return found

    def change(self, scale: float, centre: QPointF) -> None:
        """Scale over that at which all is seen, and the middle in shares of width and height."""
        self.scale = min(max(scale, 1.0), MOST_ZOOM)
        half = 0.5 / self.scale
        self.centre = QPointF(min(max(centre.x(), half), 1.0 - half), min(max(centre.y(), half), 1.0 - half))
        self.announce({"lens"})

    def whole(self) -> None:
        """All of it."""
        self.change(1.0, QPointF(0.5, 0.5))


Outline = Sequence[Sequence[Sequence[Sequence[int]]]]
"""Polygons of rings of corners, as `charts.map_files.outline` has them."""


@frozen(eq=False)
class Shown:
    """What a map view draws.

    Attributes
    ----------
    shape : (float, float)
        Rows and columns of samples.
    paint : function of (slice, slice)
        Colours of a part of the picture, (r, c, 3) uint8.
    pixels : (int, int)
        Rows and columns of the picture: as many as samples, or several for each.
    chart : Chart
        The same as data, for copying and printing.
    layout : GridLayout
    values : (rows, columns) float array or None
        For picking what is alike; None where there is no one value.
    """

    shape: tuple[float, float]
    paint: Callable[[tuple[slice, slice]], np.ndarray]
    pixels: tuple[int, int]
    chart: Chart
    layout: GridLayout
    values: np.ndarray | None
