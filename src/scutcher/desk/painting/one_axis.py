"""Several plots that show the same part of one level axis, wherever they stand."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial

from scutcher.desk.painting.area import PlotArea


class OneAxis:
    """What is seen of the axis in one of the plots is seen in all."""

    def __init__(self, plots: Sequence[PlotArea]) -> None:
        self._plots, self._moving = tuple(plots), False
        for plot in self._plots:
            plot.ground.sigXRangeChanged.connect(partial(self._on_changed, plot))

    def _on_changed(self, source: PlotArea, *_: object) -> None:
        if self._moving:
            return
        self._moving = True
        try:
            low, high = source.ground.viewRange()[0]
            for plot in self._plots:
                if plot is not source:
                    plot.ground.setXRange(low, high, padding=0.0)
        finally:
            self._moving = False
