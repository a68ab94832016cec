"""A plane: samples as marks, picked by click, rectangle or lasso."""

from __future__ import annotations

import numpy as np
import pyqtgraph as pg
from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QKeyEvent, QPainterPath, QPolygonF
from PySide6.QtWidgets import QGraphicsPathItem, QWidget

from scutcher.charts import colours
from scutcher.charts.description import Chart, Marks
from scutcher.charts.emphasis import FRONT, HIDDEN, PLAIN
from scutcher.core.arrays import Floats, Integers
from scutcher.desk.painting.area import PlotArea
from scutcher.desk.painting.curves import area_items, curve_items, flag_items
from scutcher.desk.painting.mark_finding import inside_polygon, next_mark, way_of
from scutcher.desk.painting.marks_item import MarksItem
from scutcher.desk.painting.setup import pen, tick_font

PICK_RADIUS = 10  # pixels
MARK_SIZE = 8.5
MARGIN = 14  # pixels around the outermost marks
MOST_LABELS = 80
LABELLED = 12
"""Picked samples that get their name; more would be soup."""


class PlaneView(PlotArea):
    """Draws the marks and rules of a chart; tells what was clicked, enclosed and hovered."""

    picked = Signal(object, object)
    hovered = Signal(object)
    probed = Signal(object)

    def __init__(self, parent: QWidget | None = None, mark_size: float = MARK_SIZE) -> None:
        super().__init__(parent)
        self.mark_size = mark_size
        self.lasso, self.probing = False, False
        self.chart: Chart | None = None
        self.strength: Integers = np.empty(0, dtype=np.intp)
        self.item = MarksItem(mark_size)
        self.item.setZValue(10)
        self.addItem(self.item)
        self.ghost_item = MarksItem(mark_size * 0.9, hollow=True)
        self.ghost_item.setZValue(6)
        self.addItem(self.ghost_item)
        self._curves: list[pg.GraphicsObject] = []
        self._labels: list[pg.TextItem] = []
        self._hover_label = self._label("")
        self._outline = QGraphicsPathItem()
        self._outline.setPen(pen(colours.ACCENT, 1.2))
        wash = QColor(colours.ACCENT)
        wash.setAlpha(24)
        self._outline.setBrush(wash)
        self._outline.setZValue(40)
        self.scene().addItem(self._outline)
        self._trace: list[QPointF] = []
        self.ground.on_click = self._on_click
        self.ground.on_double_click = self.whole
        self.ground.on_drag = self._on_drag
        self.pointed.connect(self._on_pointed)
        self.left.connect(lambda: self.hovered.emit(None))
        self._is_whole = True
        self.ground.sigRangeChangedManually.connect(lambda axes: setattr(self, "_is_whole", False))
        self.ground.sigResized.connect(lambda ground: self.whole() if self._is_whole else None)

    def show_chart(self, chart: Chart, strength: Integers) -> None:
        """Draw another chart with an emphasis for each mark, and show all of it."""
        self.chart = chart
        self.draw_rules(chart.rules)
        self.show_axes(not chart.is_blank)
        self.ground.setAspectLocked(chart.square)
        ghosts = chart.ghosts
        faint = np.full(0 if ghosts is None else len(ghosts.x), PLAIN)
        self.ghost_item.show_marks(ghosts, faint)
        self._draw_curves(chart)
        self.whole()
        self.emphasise(strength)

    def _draw_curves(self, chart: Chart) -> None:
        for item in self._curves:
            self.removeItem(item)
        self._curves = []
        for curve in chart.curves:
            self._curves += curve_items(curve)
        for area in chart.areas:
            self._curves += area_items(area)
        for flags in chart.flags:
            self._curves += flag_items(flags)
        for item in self._curves:
            self.addItem(item, ignoreBounds=True)

    def emphasise(self, strength: Integers) -> None:
        """Draw the same marks with another emphasis, one figure for each."""
        self.strength = strength
        marks = None if self.chart is None else self.chart.marks
        self.item.show_marks(marks, strength)
        self._name_front(marks)

    def whole(self) -> None:
        """Show all marks, and limits where there are any, with a margin."""
        self._is_whole = True
        chart = self.chart
        marks = None if chart is None else chart.marks
        if chart is None or marks is None or not len(marks.x):
            return
        across = [*_span(marks.x), *(r.at for r in chart.rules if r.vertical)]
        up = [*_span(marks.y), *(r.at for r in chart.rules if not r.vertical)]
        for other in (chart.ghosts, *chart.curves, *chart.areas):
            if other is not None and len(other.x):
                across += _span(other.x)
                up += _span(other.y)
        for low, high, pixels, place in (
            (min(across), max(across), self.ground.width(), self.ground.setXRange),
            (min(up), max(up), self.ground.height(), self.ground.setYRange),
        ):
            share = MARGIN / max(pixels - 2.0 * MARGIN, 4.0 * MARGIN)
            margin = share * (high - low) or max(abs(high), 1.0) * 0.1
            place(low - margin, high + margin, padding=0.0)

    def hover_mark(self, row: int | None) -> None:
        """Ring and name one sample, or take both away."""
        place = self._place_of(row)
        if place is None or self.strength[place] == HIDDEN:
            self.item.hover(None)
            self._hover_label.hide()
            return
        marks = self._marks()
        self.item.hover(place)
        named = self.strength[place] == FRONT and int((self.strength == FRONT).sum()) <= LABELLED
        self._hover_label.setVisible(not named)
        self._put(self._hover_label, marks.names[place], float(marks.x[place]), float(marks.y[place]))

    def nearest_mark(self, place: QPointF) -> int | None:
        """The row of the sample nearest to a place in the scene, within reach."""
        marks = None if self.chart is None else self.chart.marks
        if marks is None or not len(marks.x):
            return None
        across, down = self.to_pixels(marks.x, marks.y)
        away = np.hypot(across - place.x(), down - place.y())
        away[self.strength == HIDDEN] = np.inf
        nearest = int(away.argmin())
        return int(marks.keys[nearest]) if away[nearest] <= PICK_RADIUS else None

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Arrows go to the next mark that way, Page Up and Down through all of them; Space picks it."""
        way = way_of(Qt.Key(event.key()))
        marks = None if self.chart is None else self.chart.marks
        if marks is None or not len(marks.x) or (way is None and event.key() != Qt.Key.Key_Space):
            super().keyPressEvent(event)
        elif way is not None:
            place = next_mark(*self.to_pixels(marks.x, marks.y), self.strength, self.item.hovered, way)
            row = None if place is None else int(marks.keys[place])
            self.hover_mark(row)
            self.hovered.emit(row)
        elif self.item.hovered is not None:
            self.picked.emit([int(marks.keys[self.item.hovered])], event.modifiers())

    def _marks(self) -> Marks:
        assert self.chart is not None and self.chart.marks is not None
        return self.chart.marks

    def _place_of(self, row: int | None) -> int | None:
        if row is None or self.chart is None or self.chart.marks is None:
            return None
        found = np.flatnonzero(self.chart.marks.keys == row)
        return int(found[0]) if len(found) else None

    def _name_front(self, marks: Marks | None) -> None:
        """Names beside the marks that have one; where one would cover another it is left away."""
        spare, self._labels = self._labels, []
        if marks is None or self.chart is None:
            self._drop(spare)
            return
        front = self.item.ringed()
        names = self.chart.labels or marks.names
        always = [place for place, name in enumerate(self.chart.labels) if name and not name.startswith("\0")]
        wanted = [*(front.tolist() if len(front) <= LABELLED else []), *always]
        taken: list[QRectF] = []
        for place in list(dict.fromkeys(wanted))[:MOST_LABELS]:
            if self.strength[place] == HIDDEN:
                continue
            name = names[place].removeprefix("\0")
            label = spare.pop() if spare else self._label(name)
            x, y = float(marks.x[place]), float(marks.y[place])
            self._put(label, name, x, y)
            area = self._evade(label, x, y, taken)
            if area is None and place not in front:
                spare.append(label)
                continue
            taken.append(area or self._area_of(label, x, y))
            self._labels.append(label)
        self._drop(spare)

    def _evade(self, label: pg.TextItem, x: float, y: float, taken: list[QRectF]) -> QRectF | None:
        """Turn a name round its mark until it covers no other; what it covers then, or None."""
        usual = label.anchor
        size = label.boundingRect()
        across = (self.mark_size + 3.0) / max(size.width(), 1.0)
        up = (self.mark_size - 1.0) / max(size.height(), 1.0)
        around = [(usual.x(), usual.y()), (1.0 - usual.x(), 0.5), (0.5, 1.0 + up), (0.5, -up)]
        around += [(-across, 1.0 + up), (-across, -up), (1.0 + across, 1.0 + up), (1.0 + across, -up)]
        inside = self.ground.sceneBoundingRect()
        for anchor in around:
            label.setAnchor(anchor)
            area = self._area_of(label, x, y)
            if inside.contains(area) and not any(area.intersects(other) for other in taken):
                return area
        label.setAnchor((usual.x(), usual.y()))
        return None

    def _drop(self, labels: list[pg.TextItem]) -> None:
        for label in labels:
            self.removeItem(label)

    def _area_of(self, label: pg.TextItem, x: float, y: float) -> QRectF:
        """What a name covers, in pixels of the scene."""
        across, down = self.to_pixels(np.array([x]), np.array([y]))
        size = label.boundingRect()
        anchor = label.anchor
        left = float(across[0]) - anchor.x() * size.width()
        return QRectF(left, float(down[0]) - anchor.y() * size.height(), size.width(), size.height() * 0.8)

    def _label(self, text: str) -> pg.TextItem:
        label = pg.TextItem(text, color=colours.INK, anchor=(0.0, 0.5))
        font = tick_font()
        font.setPixelSize(11)
        label.setFont(font)
        label.setZValue(30)
        self.addItem(label, ignoreBounds=True)
        return label

    def _put(self, label: pg.TextItem, text: str, x: float, y: float) -> None:
        """Place a name beside its mark, on the side where there is room."""
        label.setText(text)
        (left, right), _ = self.ground.viewRange()
        to_left = x > left + 0.8 * (right - left)
        gap = (self.mark_size + 3.0) / max(label.boundingRect().width(), 1.0)
        label.setAnchor((1.0 + gap, 0.5) if to_left else (-gap, 0.5))
        label.setPos(x, y)

    def _on_click(self, place: QPointF, modifiers: Qt.KeyboardModifier) -> None:
        if self.probing:
            self.probed.emit(self.to_data(place))
            return
        row = self.nearest_mark(place)
        self.picked.emit([] if row is None else [row], modifiers)

    def _on_pointed(self, x: float, y: float) -> None:
        self.hovered.emit(self.nearest_mark(self.ground.mapViewToScene(QPointF(x, y))))

    def _on_drag(self, start: QPointF, now: QPointF, finished: bool, modifiers: Qt.KeyboardModifier) -> None:
        if self.probing:
            self.probed.emit(self.to_data(now))
            return
        if not self._trace:
            self._trace = [start]
        self._trace.append(now)
        path = QPainterPath()
        if self.lasso:
            path.addPolygon(QPolygonF(self._trace))
            path.closeSubpath()
        else:
            path.addPolygon(QPolygonF([start, QPointF(now.x(), start.y()), now, QPointF(start.x(), now.y())]))
            path.closeSubpath()
        self._outline.setPath(path)
        if finished:
            corners = path.toFillPolygon()
            self._trace = []
            self._outline.setPath(QPainterPath())
            self.picked.emit(self._enclosed(corners), modifiers)

    def _enclosed(self, corners: QPolygonF) -> list[int]:
        marks = None if self.chart is None else self.chart.marks
        if marks is None:
            return []
        across, down = self.to_pixels(marks.x, marks.y)
        points = np.array([(corner.x(), corner.y()) for corner in corners.toList()])
        inside = inside_polygon(across, down, points) & (self.strength != HIDDEN)
        return [int(row) for row in marks.keys[inside]]


def _span(values: Floats) -> tuple[float, float]:
    finite = values[np.isfinite(values)]
    return (float(finite.min()), float(finite.max())) if len(finite) else (0.0, 1.0)
