"""A plane: samples as marks, picked by click, rectangle or lasso."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, Qt, Signal
from PySide6.QtGui import QColor, QKeyEvent, QPainterPath
from PySide6.QtWidgets import QApplication, QGraphicsPathItem, QWidget

from scutcher.charts import colours
from scutcher.charts.description import Chart, Marks
from scutcher.charts.emphasis import FRONT, HIDDEN, PLAIN
from scutcher.core.arrays import Floats, Integers
from scutcher.desk.painting.area import PlotArea
from scutcher.desk.painting.mark_finding import next_mark, way_of
from scutcher.desk.painting.mark_names import LABELLED, MarkNames
from scutcher.desk.painting.marks_item import CROWD, MarksItem
from scutcher.desk.painting.own_keys import OwnKeys
from scutcher.desk.painting.plane_hand import PlaneHand
from scutcher.desk.painting.setup import pen

PICK_RADIUS = 10  # pixels
MARK_SIZE = 8.5
MARGIN = 14  # pixels around the outermost marks


class PlaneView(PlotArea):
    """Draws the marks and rules of a chart; tells what was clicked, enclosed and hovered."""

    picked = Signal(object, object)
    hovered = Signal(object)
    probed = Signal(object)

    def __init__(
        self, parent: QWidget | None = None, mark_size: float = MARK_SIZE, crowd: int = CROWD
    ) -> None:
        super().__init__(parent)
        self.mark_size = mark_size
        self.hand, self.probing = PlaneHand(), False
        OwnKeys(self, lambda: self.hand.drawing)
        self.chart: Chart | None = None
        self.strength: Integers = np.empty(0, dtype=np.intp)
        self.item = MarksItem(mark_size, crowd=crowd)
        self.item.setZValue(10)
        self.addItem(self.item)
        self.ghost_item = MarksItem(mark_size * 0.9, hollow=True)
        self.ghost_item.setZValue(6)
        self.addItem(self.ghost_item)
        self.names = MarkNames(self, mark_size)
        self._hover_label = self.names.label("")
        self._outline = QGraphicsPathItem()
        self._outline.setPen(pen(colours.ACCENT, 1.2))
        wash = QColor(colours.ACCENT)
        wash.setAlpha(24)
        self._outline.setBrush(wash)
        self._outline.setZValue(40)
        self.scene().addItem(self._outline)
        self.ground.on_click = self._on_click
        self.ground.on_double_click = self._on_double_click
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
        self.draw_curves(chart.curves, chart.areas, chart.flags)
        self.whole()
        self.emphasise(strength)

    def emphasise(self, strength: Integers) -> None:
        """Draw the same marks with another emphasis, one figure for each."""
        self.strength = strength
        marks = None if self.chart is None else self.chart.marks
        self.item.show_marks(marks, strength)
        self.names.show(self.chart, marks, self.strength, self.item.ringed())

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
        wide = _with_margin(min(across), max(across), self.ground.width())
        tall = _with_margin(min(up), max(up), self.ground.height())
        self.ground.setRange(xRange=wide, yRange=tall, padding=0.0)

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
        self.names.put(self._hover_label, marks.names[place], float(marks.x[place]), float(marks.y[place]))

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
        if event.key() == Qt.Key.Key_Escape and self.hand.drawing:
            self.hand.trace = []
            self._outline.setPath(QPainterPath())
            return
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

    def _on_click(self, place: QPointF, modifiers: Qt.KeyboardModifier) -> None:
        if self.probing:
            self.probed.emit(self.to_data(place))
            return
        if self.hand.tool == "polygon":
            if self.hand.add_corner(place):
                self._finish(place, modifiers)
            return
        row = self.nearest_mark(place)
        if self.hand.tool == "flood" and row is not None:
            self._finish(place, modifiers)
            return
        self.picked.emit([] if row is None else [row], modifiers)

    def _on_double_click(self) -> None:
        """All of it; corners are closed."""
        if self.hand.tool == "polygon" and self.hand.drawing:
            self._finish(self.hand.trace[-1], QApplication.keyboardModifiers())
        else:
            self.whole()

    def _on_pointed(self, x: float, y: float) -> None:
        place = self.ground.mapViewToScene(QPointF(x, y))
        if self.hand.tool == "polygon" and self.hand.drawing:
            self._outline.setPath(self.hand.outline(place))
        self.hovered.emit(self.nearest_mark(place))

    def _on_drag(self, start: QPointF, now: QPointF, finished: bool, modifiers: Qt.KeyboardModifier) -> None:
        if self.probing:
            self.probed.emit(self.to_data(now))
            return
        if self.hand.tool == "polygon":
            return
        if not self.hand.trace:
            self.hand.trace = [start]
        if self.hand.tool != "box":
            self.hand.trace.append(now)
        self._outline.setPath(self.hand.outline(now))
        if finished:
            self._finish(now, modifiers)

    def _finish(self, now: QPointF, modifiers: Qt.KeyboardModifier) -> None:
        """What was drawn is picked."""
        marks = None if self.chart is None else self.chart.marks
        self._outline.setPath(QPainterPath())
        if marks is None:
            self.hand.trace = []
            self.picked.emit([], modifiers)
            return
        inside = self.hand.enclosed(now, *self.to_pixels(marks.x, marks.y)) & (self.strength != HIDDEN)
        self.picked.emit(marks.keys[inside].tolist(), modifiers)


def _with_margin(low: float, high: float, pixels: float) -> tuple[float, float]:
    """The ends of an axis of so many pixels that shows a range with air round it."""
    share = MARGIN / max(pixels - 2.0 * MARGIN, 4.0 * MARGIN)
    margin = share * (high - low) or max(abs(high), 1.0) * 0.1
    return low - margin, high + margin


def _span(values: Floats) -> tuple[float, float]:
    low, high = float(values.min()), float(values.max())
    if np.isfinite(low) and np.isfinite(high):
        return low, high
    finite = values[np.isfinite(values)]
    return (float(finite.min()), float(finite.max())) if len(finite) else (0.0, 1.0)
