"""What is being drawn on a plane, and which marks it means; in pixels of the scene."""

from __future__ import annotations

from itertools import pairwise

import numpy as np
from PySide6.QtCore import QPointF
from PySide6.QtGui import QPainterPath, QPolygonF

from scutcher.core.arrays import Booleans, Floats
from scutcher.desk.painting.map_tools import Tool, away_from, corners_of_box
from scutcher.desk.painting.mark_finding import inside_polygon

BRUSH, CELL, NEAR = 9.0, 7.0, 8.0
"""How far a brush reaches, how near marks are that hang together, and what counts as the same corner."""


class PlaneHand:
    """Box and line by a drag, corners by clicks, a brush, and the cloud that hangs together.

    Attributes
    ----------
    tool : Tool
    trace : list of QPointF
        Where the pointer has been, or the corners that were clicked.
    """

    def __init__(self) -> None:
        self.tool: Tool = "box"
        self.trace: list[QPointF] = []

    @property
    def drawing(self) -> bool:
        """Whether something has been begun."""
        return bool(self.trace)

    def take_tool(self, tool: Tool) -> None:
        """Another tool; what was begun with the old one is left."""
        self.tool, self.trace = tool, []

    def add_corner(self, place: QPointF) -> bool:
        """One corner more of a polygon; whether that closes it, being the first or the last one again."""
        for known in self.trace[:1] + self.trace[-1:]:
            if len(self.trace) > 2 and (known - place).manhattanLength() <= NEAR:
                return True
        self.trace.append(place)
        return False

    def outline(self, now: QPointF) -> QPainterPath:
        """What is drawn so far, with the pointer at a place."""
        path, points = QPainterPath(), [*self.trace, now]
        if self.tool == "box":
            one = points[0]
            points = [one, QPointF(now.x(), one.y()), now, QPointF(one.x(), now.y())]
        path.addPolygon(QPolygonF(points))
        if self.tool != "brush":
            path.closeSubpath()
        return path

    def enclosed(self, now: QPointF, across: Floats, down: Floats) -> Booleans:
        """Which marks are meant, (m,) → (m,); nothing is being drawn any more."""
        points, self.trace = np.array([(at.x(), at.y()) for at in [*self.trace, now]]), []
        if self.tool == "flood":
            return hanging_together(across, down, points[-1])
        if self.tool == "brush":
            return under_stroke(across, down, points)
        if self.tool == "box":
            points = corners_of_box(points)
        return inside_polygon(across, down, points)


def under_stroke(across: Floats, down: Floats, points: Floats, reach: float = BRUSH) -> Booleans:
    """Marks within reach of a line through points, (c, 2)."""
    found = np.zeros(len(across), dtype=bool)
    for a, b in pairwise(points):
        found |= away_from(across, down, a, b) <= reach
    return found


def hanging_together(across: Floats, down: Floats, at: Floats, cell: float = CELL) -> Booleans:
    """The marks of the cloud that the mark nearest to a place belongs to.

    Marks hang together whose cells, so many pixels wide, touch each other.
    """
    from scipy.ndimage import label

    known = np.isfinite(across) & np.isfinite(down)
    found = np.zeros(len(across), dtype=bool)
    if not known.any():
        return found
    x, y = across[known], down[known]
    columns = np.floor((x - x.min()) / cell).astype(np.intp)
    rows = np.floor((y - y.min()) / cell).astype(np.intp)
    nearest = int(np.hypot(x - at[0], y - at[1]).argmin())
    taken = np.zeros((int(rows.max()) + 1, int(columns.max()) + 1), dtype=bool)
    taken[rows, columns] = True
    clouds, _ = label(taken, structure=np.ones((3, 3)))
    found[known] = clouds[rows, columns] == clouds[rows[nearest], columns[nearest]]
    return found
