"""How the lines of a strip are drawn: a few as vectors, many as sheets of a picture, or as bars."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtGui import QColor, QPainterPath, QPen
from PySide6.QtWidgets import QGraphicsItem, QGraphicsPathItem

from scutcher.charts import colours
from scutcher.charts.description import Chart, Lines, Ribbon
from scutcher.charts.emphasis import FADED, FRONT, HIDDEN, PLAIN
from scutcher.core.arrays import Floats, Integers, distinct
from scutcher.desk.painting.kept_path import KeptPath
from scutcher.desk.painting.plotting_library import pg
from scutcher.desk.painting.raster_item import Layer, Sheet
from scutcher.desk.painting.setup import pen
from scutcher.desk.painting.strokes import Bars, Line, Stroke, Whiskers

FEW, LONG = 12, 400
"""A few lines are drawn one by one as vectors; more of them, or longer ones, become a picture."""

MOST_POINTS = 700
SPREAD_ALPHA = 46


def sheets_of(chart: Chart, lines: Lines, strength: Integers) -> tuple[Sheet, ...]:
    """The sheets of the picture, back to front; none where the lines are vectors or bars."""
    if chart.bars:
        return ()
    if len(lines.keys) > FEW:
        return _sheets(lines, strength)
    return _fine_sheets(lines, strength) if len(lines.x) > LONG else ()


def drawn_values(lines: Lines) -> Floats:
    """The values of the lines, (m, p); where some are pale, broken there, and all of them below, (2 m, p)."""
    if lines.faint is None:
        return lines.ys
    return np.vstack([np.where(lines.faint, np.nan, lines.ys), lines.ys])


def line_strokes(chart: Chart, lines: Lines, strength: Integers) -> list[Stroke]:
    """What is drawn one by one: bars, or the vectors of a few short lines."""
    if chart.bars:
        return _bars(lines, chart.spreads, strength)
    return [] if len(lines.keys) > FEW or len(lines.x) > LONG else _vectors(lines, strength)


def ribbon_item(ribbon: Ribbon) -> QGraphicsPathItem:
    """The filled band of a ribbon."""
    fill = band_item(ribbon, QColor(colours.CHIP), pen(colours.CHIP))
    fill.setZValue(-0.5)  # behind the lines, which may be items or in the raster (at 0)
    return fill


def band_item(ribbon: Ribbon, wash: QColor, edge: QPen | Qt.PenStyle) -> QGraphicsPathItem:
    """What lies between the two edges of a ribbon, filled; broken where either is not known."""
    x, low, high = thinned(ribbon)
    path = QPainterPath()
    known = np.isfinite(low) & np.isfinite(high)
    borders = np.flatnonzero(np.diff(np.r_[False, known, False].astype(np.int8)))
    for start, stop in borders.reshape(-1, 2).tolist():
        along = np.r_[x[start:stop], x[start:stop][::-1]]
        around = np.r_[high[start:stop], low[start:stop][::-1]]
        path.addPath(pg.arrayToQPath(along, around, finiteCheck=False))
        path.closeSubpath()
    item = KeptPath(path)
    item.setBrush(wash)
    item.setPen(edge)
    return item


def thinned(ribbon: Ribbon) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """A ribbon with no more points than there are pixels: the lowest and highest of each few channels."""
    every = -(-len(ribbon.x) // MOST_POINTS)
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
            for code in distinct(lines.codes[strength == level])
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
    """Each line on a sheet of its own, as strong as a vector: the picked in front, the pale behind."""
    places = _back_to_front(strength)

    def sheet(place: int, colour: str, level: int) -> Sheet:
        return Sheet((Layer(np.array([place]), colours.rgb(colour)),), 0.97, 2.0 if level == FRONT else 1.5)

    found = [sheet(place, _line_colour(lines, place, level), level) for place, level in places]
    if lines.faint is not None:
        whole = [
            sheet(place + len(lines.keys), colours.pale(_line_colour(lines, place, level)), level)
            for place, level in places
        ]
        found = whole + found
    return tuple(found)


def _vectors(lines: Lines, strength: Integers) -> list[Stroke]:
    """The pale lines, and over them what can be told from zero."""
    pale: list[Stroke] = []
    found: list[Stroke] = []
    for place, level in _back_to_front(strength):
        width = 2.0 if level == FRONT and lines.role == "sample" else 1.5
        colour, values = _line_colour(lines, place, level), lines.ys[place]
        if lines.faint is not None:
            pale.append(Line(lines.x, values, pen(colours.pale(colour), width)))
            values = np.where(lines.faint[place], np.nan, values)
        found.append(Line(lines.x, values, pen(colour, width)))
    return pale + found


def _back_to_front(strength: Integers) -> list[tuple[int, int]]:
    """Place and strength of the lines that are not hidden, the strongest last."""
    places = np.argsort(strength, kind="stable").tolist()
    return [(place, int(strength[place])) for place in places if strength[place] != HIDDEN]


def spread_items(chart: Chart, lines: Lines, strength: Integers) -> list[QGraphicsItem]:
    """The bands in which what a few lines stand for lies."""
    found: list[QGraphicsItem] = []
    if chart.bars or len(lines.keys) > FEW:
        return found
    for place, spread in enumerate(chart.spreads):
        if strength[place] == HIDDEN:
            continue
        wash = QColor(_line_colour(lines, place, int(strength[place])))
        wash.setAlpha(SPREAD_ALPHA)
        known = np.isfinite(spread.low)
        band = Ribbon(spread.x[known], spread.low[known], spread.high[known])
        found.append(band_item(band, wash, Qt.PenStyle.NoPen))
        found[-1].setZValue(2.0)
    return found


def _bars(lines: Lines, spreads: tuple[Ribbon, ...], strength: Integers) -> list[Stroke]:
    """Bars, and over them the range of each as an upright hairline."""
    found: list[Stroke] = []
    over: list[Stroke] = []
    count = len(lines.keys)
    width = 0.8 / max(count, 1)
    for place in range(count):
        colour = _line_colour(lines, place, int(strength[place]))
        offset = (place - (count - 1) / 2.0) * width
        faint = np.zeros(len(lines.x), dtype=bool) if lines.faint is None else lines.faint[place]
        for some, brush in ((~faint, colour), (faint, colours.pale(colour))):
            x, heights = lines.x[some] + offset, np.nan_to_num(lines.ys[place][some])
            if len(x):
                found.append(Bars(x, heights, width * 0.92, (brush,), place, count))
        if place < len(spreads):
            spread = spreads[place]
            over.append(Whiskers(spread.x + offset, spread.low, spread.high, pen(colour, 1.0)))
    return found + over


def _line_colour(lines: Lines, place: int, strength: int) -> str:
    if lines.role == "component":
        return colours.COMPONENT_COLOURS[place % len(colours.COMPONENT_COLOURS)]
    if strength == FADED:
        return colours.FADED
    return colours.class_colour(int(lines.codes[place]))


def span_of(chart: Chart | None) -> tuple[float, float] | None:
    """The range of the axis, half a place wider where variables have names."""
    series = None if chart is None else (chart.lines or chart.ribbon)
    if chart is None or series is None or not len(series.x):
        return None
    beside = 0.5 if chart.tick_names else 0.0
    return float(series.x.min()) - beside, float(series.x.max()) + beside
