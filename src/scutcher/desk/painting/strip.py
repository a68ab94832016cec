"""A strip: whatever runs along the variables, drawn over the axis that all strips share."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, Qt, Signal
from PySide6.QtGui import QKeyEvent
from PySide6.QtWidgets import QGraphicsItem, QWidget

from scutcher.charts import colours
from scutcher.charts.description import Chart, Ribbon, Shade
from scutcher.charts.emphasis import HIDDEN
from scutcher.core.arrays import Integers
from scutcher.desk.painting.area import PlotArea
from scutcher.desk.painting.own_keys import OwnKeys
from scutcher.desk.painting.plotting_library import pg
from scutcher.desk.painting.raster_item import RasterLines
from scutcher.desk.painting.setup import pen
from scutcher.desk.painting.shade_item import ShadeItem
from scutcher.desk.painting.strip_keys import StripKeys
from scutcher.desk.painting.strip_lines import (
    drawn_values,
    line_strokes,
    ribbon_item,
    sheets_of,
    span_of,
    spread_items,
)
from scutcher.desk.painting.strokes import Line

PICK_RADIUS = 12  # pixels
VECTORS, HOVERED = 5.0, 20.0
"""Depths of lines drawn one by one, and of the line under the pointer."""


class StripView(PlotArea):
    """Draws the lines, bars, ribbon and rules of a chart along the channel axis."""

    picked = Signal(int, object)
    hovered = Signal(object)
    channel = Signal(object)
    ranged = Signal(float, float)
    regions_moved = Signal(object)
    regions_moving = Signal(object)
    channels_picked = Signal(object, object)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.ground.setMouseEnabled(x=True, y=False)
        self.raster = RasterLines()
        self.addItem(self.raster)
        self.shade, self.picks = ShadeItem(-4.0), ShadeItem(-3.0, narrowest=2)
        for behind in (self.shade, self.picks):
            self.addItem(behind, ignoreBounds=True)
        self._channels: tuple[float, ...] = ()
        self._spreads: list[QGraphicsItem] = []
        self._ribbon: list[pg.GraphicsObject] = []
        self._region: pg.LinearRegionItem | None = None
        self._regions: list[pg.LinearRegionItem] = []
        self.keys, self.picks_channels = StripKeys(self), False
        OwnKeys(self, lambda: self.keys.stretching)
        self.chart: Chart | None = None
        self.strength: Integers = np.empty(0, dtype=np.intp)
        self.ground.on_click = self._on_click
        self.ground.on_double_click = self.whole
        self.ground.sigXRangeChanged.connect(lambda: self._fit_height())
        self.pointed.connect(self._on_pointed)
        self.left.connect(self._on_left)

    def show_chart(self, chart: Chart, strength: Integers) -> None:
        """Draw another chart with an emphasis for each line; the zoom stays while the axis is the same."""
        earlier, self.chart = self.chart, chart
        self._clear_lines()
        if earlier is None or earlier.ribbon is not chart.ribbon:
            self._draw_ribbon(chart.ribbon)
        if earlier is None or earlier.shade is not chart.shade:
            self.shade.show_shade(chart.shade)
        if self._channels:
            self._draw_channels()
        self.layers.show(HOVERED, ())
        self.draw_curves(chart.curves)
        self.draw_rules(chart.rules)
        self.bottom_axis.show_names(chart.tick_names)
        self.show_axes(not chart.is_blank)
        lines = chart.lines
        if lines is not None and lines.ys.size:
            self.raster.show_lines(lines.x, drawn_values(lines))
        if span_of(earlier) != span_of(chart):
            self.whole()
        if lines is None or not lines.ys.size:
            self.raster.show_lines(np.empty(0), np.empty((0, 0)))
            self._fit_height()
            return
        self.strength = strength
        self._draw()
        self._fit_height()

    def show_regions(self, regions: tuple[tuple[float, float], ...]) -> None:
        """Shade regions of the axis; their edges can be dragged."""
        now = tuple(tuple(sorted(item.getRegion())) for item in self._regions)
        if len(now) == len(regions) and np.allclose(now, [sorted(region) for region in regions], rtol=1e-12):
            return  # also while one is dragged
        for item in self._regions:
            self.removeItem(item)
        self._regions = []
        for region in regions:
            item = pg.LinearRegionItem(
                sorted(region), brush=_range_wash(), pen=pen(colours.MUTED), swapMode="sort"
            )
            item.setZValue(1)
            item.sigRegionChangeFinished.connect(self._on_regions)
            item.sigRegionChanged.connect(self._on_regions_moving)
            self.addItem(item, ignoreBounds=True)
            self._regions.append(item)

    def _on_regions_moving(self) -> None:
        self.regions_moving.emit(tuple(tuple(sorted(item.getRegion())) for item in self._regions))

    def _on_regions(self) -> None:
        self.regions_moved.emit(tuple(tuple(sorted(item.getRegion())) for item in self._regions))

    def emphasise(self, strength: Integers) -> None:
        """Draw the same lines with another emphasis, one figure for each line."""
        if not np.array_equal(strength, self.strength):
            self.strength = strength
            self._clear_lines()
            self._draw()

    def hover_line(self, row: int | None) -> None:
        """Draw the line of one sample over all others, or take it away."""
        lines = None if self.chart is None else self.chart.lines
        if row is None or lines is None or lines.role != "sample" or row not in lines.keys:
            self.layers.show(HOVERED, ())
            return
        place = int(np.flatnonzero(lines.keys == row)[0])
        self.layers.show(HOVERED, [Line(lines.x, lines.ys[place], pen(colours.INK, 1.6))])

    def set_channels(self, places: tuple[float, ...]) -> None:
        """Mark the channels that are picked."""
        if places != self._channels:
            self._channels = places
            self._draw_channels()

    def _draw_channels(self) -> None:
        series = None if self.chart is None else (self.chart.lines or self.chart.ribbon)
        x = np.empty(0) if series is None else series.x
        picked = np.isin(x, self._channels).astype(np.float64)
        self.picks.show_shade(Shade(x, picked, np.full(len(x), -1, dtype=np.intp)))

    def whole(self) -> None:
        """Show the whole axis again."""
        span = span_of(self.chart)
        if span is not None:
            self.ground.setXRange(*span, padding=0.0)

    def pick_channels_by_hand(self) -> None:
        """A click picks a channel, a drag with Shift or Ctrl held the channels of a range."""
        self.picks_channels = True
        self.ground.on_drag = self._on_channel_range
        self.ground.drag_keys = Qt.KeyboardModifier.ShiftModifier | Qt.KeyboardModifier.ControlModifier
        self.ground.on_click = self._on_channel_click

    def _on_channel_click(self, place: QPointF, modifiers: Qt.KeyboardModifier) -> None:
        lines = None if self.chart is None else self.chart.lines
        if lines is not None and len(lines.x):
            nearest = float(lines.x[np.abs(lines.x - self.to_data(place)[0]).argmin()])
            self.channels_picked.emit([nearest], modifiers)

    def _on_channel_range(
        self, start: QPointF, now: QPointF, finished: bool, modifiers: Qt.KeyboardModifier
    ) -> None:
        self._on_range(start, now, False, modifiers)
        lines = None if self.chart is None else self.chart.lines
        if finished and lines is not None:
            low, high = sorted((self.to_data(start)[0], self.to_data(now)[0]))
            self.clear_range()
            self.channels_picked.emit(lines.x[(lines.x >= low) & (lines.x <= high)].tolist(), modifiers)

    def set_ranging(self, on: bool) -> None:
        """Whether a drag selects channels in place of moving the view."""
        self.ground.on_drag = self._on_range if on else None

    def _on_range(self, start: QPointF, now: QPointF, finished: bool, modifiers: Qt.KeyboardModifier) -> None:
        ends = sorted((self.to_data(start)[0], self.to_data(now)[0]))
        if self._region is None:
            self._region = pg.LinearRegionItem(brush=_range_wash(), pen=pen(colours.MUTED), movable=False)
            self._region.setZValue(-1)
            self.addItem(self._region, ignoreBounds=True)
        self._region.setRegion(ends)
        if finished:
            self.ranged.emit(ends[0], ends[1])

    def clear_range(self) -> None:
        """Take away the shade of the last drag: what it asked for is shown in another way."""
        if self._region is not None:
            self.removeItem(self._region)
            self._region = None

    def _clear_lines(self) -> None:
        for item in self._spreads:
            self.removeItem(item)
        self._spreads = []
        self.layers.show(VECTORS, ())

    def _draw(self) -> None:
        chart = self.chart
        if chart is None or chart.lines is None:
            return
        self.raster.show_sheets(sheets_of(chart, chart.lines, self.strength))
        for item in spread_items(chart, chart.lines, self.strength):
            self.addItem(item, ignoreBounds=True)
            self._spreads.append(item)
        self.layers.show(VECTORS, line_strokes(chart, chart.lines, self.strength))

    def _draw_ribbon(self, ribbon: Ribbon | None) -> None:
        for item in self._ribbon:
            self.removeItem(item)
        self._ribbon = []
        if ribbon is not None:
            self._ribbon = [ribbon_item(ribbon)]
            self.addItem(self._ribbon[0], ignoreBounds=True)

    def _fit_height(self) -> None:
        """Scale the values to what is visible of the axis, with a little air."""
        chart = self.chart
        if chart is None:
            return
        left, right = self.ground.viewRange()[0]
        parts = []
        if chart.lines is not None and chart.lines.ys.size:
            seen = (chart.lines.x >= left) & (chart.lines.x <= right)
            parts += [self.raster.low[seen], self.raster.high[seen]]
        for curve in chart.curves:
            parts.append(curve.y[(curve.x >= left) & (curve.x <= right)])
        if chart.ribbon is not None:
            seen = (chart.ribbon.x >= left) & (chart.ribbon.x <= right)
            parts += [chart.ribbon.low[seen], chart.ribbon.high[seen]]
        for spread in chart.spreads:
            seen = (spread.x >= left) & (spread.x <= right)
            parts += [spread.low[seen], spread.high[seen]]
        if chart.bars:
            parts.append(np.zeros(1))
        finite = [part for part in parts if np.isfinite(part).any()]
        if finite:
            low = min(float(np.fmin.reduce(part, axis=None)) for part in finite)
            high = max(float(np.fmax.reduce(part, axis=None)) for part in finite)
            air = 0.06 * (high - low) or max(abs(high), 1.0) * 0.1
            self.ground.setYRange(low - air, high + air, padding=0.0)

    def nearest_line(self, place: QPointF) -> int | None:
        """The row of the sample whose line is nearest above or below a place, within reach."""
        lines = None if self.chart is None else self.chart.lines
        if lines is None or lines.role != "sample" or not lines.ys.size:
            return None
        x, _ = self.to_data(place)
        column = int(np.abs(lines.x - x).argmin())
        values = np.where(self.strength == HIDDEN, np.nan, lines.ys[:, column])
        _, down = self.to_pixels(np.full(len(values), x), values)
        away = np.abs(down - place.y())
        if not np.isfinite(away).any():
            return None
        nearest = int(np.nanargmin(away))
        return int(lines.keys[nearest]) if away[nearest] <= PICK_RADIUS else None

    def _on_click(self, place: QPointF, modifiers: Qt.KeyboardModifier) -> None:
        row = self.nearest_line(place)
        if row is not None:
            self.picked.emit(row, modifiers)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Arrows go through channels and lines, Space picks, Enter begins and ends a stretch."""
        if not self.keys.pressed(event):
            super().keyPressEvent(event)

    def _on_pointed(self, x: float, y: float) -> None:
        series = None if self.chart is None else (self.chart.lines or self.chart.ribbon)
        if series is None or not len(series.x):
            return
        places = series.x
        self.channel.emit(float(places[np.abs(places - x).argmin()]))
        self.hovered.emit(self.nearest_line(self.ground.mapViewToScene(QPointF(x, y))))

    def _on_left(self) -> None:
        self.channel.emit(None)
        self.hovered.emit(None)


def _range_wash() -> tuple[int, int, int, int]:
    """Over a stretch that is dragged or picked."""
    return (*colours.rgb(colours.ACCENT), 28)
