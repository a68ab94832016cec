"""Pixels that the model is not to see: by the range of a map, or by a region that was drawn."""

from __future__ import annotations

import numpy as np

from scutcher.core.errors import InputError
from scutcher.core.words import shown
from scutcher.desk.context import Desk
from scutcher.desk.pages.maps.wall import MapWall
from scutcher.study.document.commands.samples import SetAside
from scutcher.study.evaluation.masks import MASKED


class Masking:
    """Each mask is a command; the knot on the trail shows all of them together."""

    def __init__(self, desk: Desk, wall: MapWall) -> None:
        self.desk, self.wall = desk, wall

    def outside(self) -> None:
        """Set aside the pixels whose value on the active map lies outside the range of its colours."""
        one, grid = self.wall.map_of_samples(self.wall.active), self.wall.grid
        if one is None or grid is None or one.tone == "categories":
            return
        outside = np.isfinite(one.values) & ((one.values < one.low) | (one.values > one.high))
        rows = grid.rows_in(outside)
        if len(rows):
            reason = f"{one.title} outside {shown(one.low, '.4g')} to {shown(one.high, '.4g')}"
            self.desk.do(SetAside(tuple(rows.tolist()), MASKED + reason))

    def picked(self) -> None:
        """Set aside the picked pixels as a region that is masked."""
        picked = self.desk.selection.look.picked
        if not picked:
            self.desk.say(InputError("No pixel is picked.", "Draw on a map or on the plane first."))
        elif self.desk.do(SetAside(tuple(sorted(picked)), f"{MASKED}a region that was drawn")):
            self.desk.selection.pick([])
