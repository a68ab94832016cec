"""The class means at the knots of the trail, drawn small: made again only where they are others."""

from __future__ import annotations

import numpy as np

from scutcher.charts.description import Lines
from scutcher.charts.emphasis import colouring_of
from scutcher.charts.signals import class_means, stage_source
from scutcher.core.arrays import Floats
from scutcher.core.recipes.recipe import Recipe
from scutcher.desk.context import Desk
from scutcher.desk.trail.miniature import WIDE

ENOUGH = 400  # samples that a miniature is made from


class KnotPictures:
    """Kept by stage: 0 the data, then after each treatment, last after scaling."""

    def __init__(self, desk: Desk) -> None:
        self.desk = desk
        self._kept: dict[int, tuple[Floats, tuple[object, bytes, bytes], Lines]] = {}

    def at(self, stage: int, recipe: Recipe) -> Lines | None:
        """The picture of a stage; None where what stands before it is still being computed.

        Parameters
        ----------
        recipe : what the trail shows
        """
        state, found = self.desk.moment.state, self.desk.moment.found
        same = found is None or found.recipe.treat[:stage] == recipe.treat[:stage]
        if state.table is None or not same or (found is not None and stage > len(found.stages)):
            return None
        table, source, places, rows = stage_source(state, stage, found)
        colouring = colouring_of(state)
        codes = colouring.codes[rows]
        columns = np.arange(source.shape[1]) if found is None or stage else found.usable.columns
        of = (source.scaler, codes.tobytes(), columns.tobytes())
        kept = self._kept.get(stage)
        if kept is None or kept[0] is not source.values or kept[1] != of:
            some = slice(None, None, max(1, len(places) // ENOUGH))  # it is a tiny picture
            few = columns[:: max(1, len(columns) // WIDE)]
            part = source.block(places[some], few)
            lines = class_means(table.axis.places()[few], part, codes[some], colouring)
            kept = self._kept[stage] = (source.values, of, lines)
        return kept[2]
