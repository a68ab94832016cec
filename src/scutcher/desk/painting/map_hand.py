"""What is being drawn on a map, by the pointer or by keys, and which pixels it means."""

from __future__ import annotations

import numpy as np

from scutcher.core.arrays import Booleans, Floats
from scutcher.desk.painting.map_tools import Tool, corners_of_box, inside_line, inside_stroke, like_neighbours

Cell = tuple[int, int]
"""Column and row."""


class MapHand:
    """Points in pixels of the map, so that one may look nearer or farther while drawing.

    Attributes
    ----------
    tool : Tool
    points : list of (x, y)
        A pixel's middle has halves: (0.5, 0.5) is that of the first.
    by_keys : bool
        Whether corners are set by keys: then the next one is the cursor's.
    """

    def __init__(self) -> None:
        self.tool: Tool = "box"
        self.points: list[tuple[float, float]] = []
        self.by_keys = False

    @property
    def drawing(self) -> bool:
        """Whether something has been begun."""
        return bool(self.points)

    def clear(self) -> None:
        """Nothing is being drawn."""
        self.points, self.by_keys = [], False

    def take_tool(self, tool: Tool) -> None:
        """Another tool; what was begun with the old one is left."""
        self.tool = tool
        self.clear()

    def add_corner(self, x: float, y: float, near: float) -> bool:
        """One corner more of a polygon; whether that closes it, being the first one again or the last one.

        Parameters
        ----------
        near : float
            In pixels of the map: what counts as the same place.
        """
        for known in self.points[:1] + self.points[-1:]:
            if len(self.points) > 2 and np.hypot(x - known[0], y - known[1]) <= near:
                return True
        self.points.append((x, y))
        return False

    def step_back(self) -> None:
        """Without the last corner."""
        del self.points[-1:]

    def enter(self, cell: Cell) -> bool:
        """A corner at the cursor by a key; whether what is drawn is whole now."""
        self.by_keys = True
        if self.tool in ("lasso", "polygon"):
            return self.add_corner(cell[0] + 0.5, cell[1] + 0.5, 0.1)
        self.points.append((cell[0] + 0.5, cell[1] + 0.5))
        return self.tool == "flood" or len(self.points) > 1

    def pixels(self, shape: tuple[int, int], values: Floats | None, cell: Cell | None) -> Booleans | None:
        """What is meant by the points, (rows, columns); None beside the picture.

        Parameters
        ----------
        cell : the column and row of the last point, None beside the picture
        """
        points = np.array(self.points)
        if self.tool in ("lasso", "polygon") and len(points) < 3:
            return None
        if self.tool == "flood":
            return None if cell is None or values is None else like_neighbours(values, cell)
        if self.tool == "brush":
            return inside_stroke(points, shape)
        if self.tool == "box":
            points = corners_of_box(points, 0.5 if self.by_keys else 0.0)  # by keys both pixels, whole
        return inside_line(points, shape)
