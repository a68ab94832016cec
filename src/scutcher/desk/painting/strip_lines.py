"""How the lines of a strip are drawn: a few as vectors, many as sheets of a picture, or as bars."""

from __future__ import annotations

import numpy as np
import pyqtgraph as pg
from PySide6.QtGui import QColor

from scutcher.charts import colours
from scutcher.charts.description import Chart, Lines, Ribbon
from scutcher.charts.emphasis import FADED, FRONT, HIDDEN, PLAIN
from scutcher.core.arrays import Integers
from scutcher.desk.painting.raster_item import Layer, Sheet
from scutcher.desk.painting.setup import pen

FEW, LONG = 12, 400
"""A few lines are drawn one by one as vectors; more of them, or longer ones, become a picture."""

MOST_POINTS = 600
SPREAD_ALPHA = 46


def sheets_of(chart: Chart, lines: Lines, strength: Integers) -> tuple[Sheet, ...]:
    """The sheets of the picture, back to front; none where the lines are vectors or bars."""
    if chart.bars:
        return ()
    if len(lines.keys) > FEW:
        return _sheets(lines, strength)
    return _fine_sheets(lines, strength) if len(lines.x) > LONG else ()


def line_items(chart: Chart, lines: Lines, strength: Integers) -> list[pg.GraphicsObject]:
    """What is drawn as items, each at its depth: bars, or the spreads and vectors of a few lines."""
    if chart.bars:
        return _bars(lines, strength)
    if len(lines.keys) > FEW:
        return []
    spreads = _spreads(chart, lines, strength)
    return spreads if len(lines.x) > LONG else spreads + _vectors(lines, strength)


def ribbon_item(ribbon: Ribbon) -> pg.FillBetweenItem:
    """The filled band of a ribbon."""
    x, low, high = thinned(ribbon)
    edges = [pg.PlotCurveItem(x, values) for values in (low, high)]
    fill = pg.FillBetweenItem(*edges, brush=colours.CHIP, pen=pen(colours.CHIP))
    fill.setZValue(-0.5)  # behind the lines, which may be items or in the raster (at 0)
    return fill


def thinned(ribbon: Ribbon) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """A ribbon with no more points than there are pixels: the lowest and highest of each few channels."""
    every = len(ribbon.x) // MOST_POINTS
    if every < 2:
        return ribbon.x, ribbon.low, ribbon.high
    starts = np.arange(0, len(ribbon.x), every)
    low, high = np.fmin.reduceat(ribbon.low, starts), np.fmax.reduceat(ribbon.high, starts)
    return ribbon.x[starts], low, high


def _sheets(lines: Lines, strength: Integers) -> tuple[Sheet, ...]:
    """Back to front: faded, plain by class, picked by class."""
    faded = np.flatnonzero(strength == FADED)
    plain, front = (
        tuple(
            Layer(rows, colours.rgb(colours.class_colour(int(code))))
            for code in np.unique(lines.codes[strength == level])
            for rows in [np.flatnonzero((strength == level) & (lines.codes == code))]
        )
        for level in (PLAIN, FRONT)
    )
    crowd = max(len(faded), int((strength == PLAIN).sum()), 1)
    opacity = float(np.clip(60.0 / crowd, 0.04, 0.75))
    return (
        Sheet((Layer(faded, colours.rgb(colours.FADED)),), min(opacity * 1.3, 0.9), 1.0),
        Sheet(plain, opacity, 1.0),
        Sheet(front, 0.95, 1.7),
    )


def _fine_sheets(lines: Lines, strength: Integers) -> tuple[Sheet, ...]:
    """Each line on a sheet of its own, as strong as a vector, the picked ones in front."""
    return tuple(
        Sheet(
            (Layer(np.array([place]), colours.rgb(_line_colour(lines, place, level))),),
            0.97,
            2.0 if level == FRONT else 1.5,
        )
        for place, level in _back_to_front(strength)
    )


def _vectors(lines: Lines, strength: Integers) -> list[pg.GraphicsObject]:
    found = []
    for place, level in _back_to_front(strength):
        width = 2.0 if level == FRONT and lines.role == "sample" else 1.5
        style = pen(_line_colour(lines, place, level), width)
        found.append(pg.PlotCurveItem(lines.x, lines.ys[place], pen=style, connect="finite"))
        found[-1].setZValue(5.0 + level)
    return found


def _back_to_front(strength: Integers) -> list[tuple[int, int]]:
    """Place and strength of the lines that are not hidden, the strongest last."""
    places = np.argsort(strength, kind="stable").tolist()
    return [(place, int(strength[place])) for place in places if strength[place] != HIDDEN]


def _spreads(chart: Chart, lines: Lines, strength: Integers) -> list[pg.GraphicsObject]:
    found = []
    for place, spread in enumerate(chart.spreads):
        if strength[place] == HIDDEN:
            continue
        wash = QColor(_line_colour(lines, place, int(strength[place])))
        wash.setAlpha(SPREAD_ALPHA)
        known = np.isfinite(spread.low)
        edges = [pg.PlotCurveItem(spread.x[known], side[known]) for side in (spread.low, spread.high)]
        found.append(pg.FillBetweenItem(*edges, brush=wash))
        found[-1].setZValue(2.0)
    return found


def _bars(lines: Lines, strength: Integers) -> list[pg.GraphicsObject]:
    found = []
    count = len(lines.keys)
    width = 0.8 / max(count, 1)
    for place in range(count):
        colour = _line_colour(lines, place, int(strength[place]))
        offset = (place - (count - 1) / 2.0) * width
        heights = np.nan_to_num(lines.ys[place])
        found.append(
            pg.BarGraphItem(x=lines.x + offset, height=heights, width=width * 0.92, brush=colour, pen=None)
        )
        found[-1].setZValue(5.0)
    return found


def _line_colour(lines: Lines, place: int, strength: int) -> str:
    if lines.role == "component":
        return colours.COMPONENT_COLOURS[place % len(colours.COMPONENT_COLOURS)]
    if strength == FADED:
        return colours.FADED
    return colours.class_colour(int(lines.codes[place]))
