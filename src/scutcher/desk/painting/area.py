"""A plot area in our manner: quiet axes, no menus, and the pointer told in data units."""

from __future__ import annotations

from collections.abc import Callable, Sequence

import numpy as np
from PySide6.QtCore import QEvent, QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QFocusEvent, QPainter, QPalette
from PySide6.QtWidgets import (
    QFrame,
    QGraphicsGridLayout,
    QGraphicsItem,
    QGraphicsSceneResizeEvent,
    QSizePolicy,
    QWidget,
)

from scutcher.charts import colours
from scutcher.charts.description import Area, Curve, Flags, Rule
from scutcher.desk.guard import guarded
from scutcher.desk.painting.curves import curve_layers
from scutcher.desk.painting.plotting_library import pg
from scutcher.desk.painting.quiet_axis import TALL, QuietAxis
from scutcher.desk.painting.setup import pen
from scutcher.desk.painting.strokes import Across
from scutcher.desk.painting.strokes_item import Layers

BY_KEYS = (
    Qt.FocusReason.TabFocusReason,
    Qt.FocusReason.BacktabFocusReason,
    Qt.FocusReason.ShortcutFocusReason,
)
"""Only who comes by keys is shown where the keys go."""

LEFT_AXIS_WIDTH = 40
BARE_AXIS_HEIGHT = 6
DEEPEST, WIDEST = 1e-9, 1e100
"""The narrowest view, as a share of the numbers in it, and the widest."""

RULES, CURSOR = -5.0, 30.0
"""Depths of zero lines and limits, and of the cursor."""


class Ground(pg.ViewBox):  # type: ignore[misc]
    """The inside of a plot: clicks and left drags are handed on, wheel and middle drag move the view."""

    def __init__(self) -> None:
        super().__init__(enableMenu=False)
        self.on_click: Callable[[QPointF, Qt.KeyboardModifier], None] | None = None
        self.on_double_click: Callable[[], None] | None = None
        self.on_drag: Callable[[QPointF, QPointF, bool, Qt.KeyboardModifier], None] | None = None
        self.drag_keys = Qt.KeyboardModifier.NoModifier
        """Keys of which one has to be held for `on_drag`; none: always."""
        self.sigRangeChanged.connect(lambda: self.updateMatrix())

    def resizeEvent(self, event: QGraphicsSceneResizeEvent) -> None:
        """What is inside moves at once, as it does with a new range.

        The library waits until it paints, and would then paint everything twice.
        """
        super().resizeEvent(event)
        self.updateMatrix()

    def scaleBy(self, s: object = None, center: object = None, x: object = None, y: object = None) -> None:
        """Zoom, but not to where two numbers are the same place.

        There every line is rounding, and an outline of it takes a painter a fifth of a second.
        """
        before = self.viewRange()
        super().scaleBy(s, center, x, y)
        for set_range, (low, high), former in zip(
            (self.setXRange, self.setYRange), self.viewRange(), before, strict=True
        ):
            if not DEEPEST * max(abs(low), abs(high)) <= high - low < WIDEST:
                set_range(*former, padding=0)

    def linkedViewChanged(self, view: pg.ViewBox | None, axis: int) -> None:
        """The same range as another plot's, however wide the two are and wherever they stand.

        The library would line them up by their places on the screen, of which one may not be the last.
        """
        if self.linksBlocked or view is None:
            return
        view.blockLink(True)
        try:
            self.enableAutoRange(axis, False)
            follow = self.setXRange if axis == pg.ViewBox.XAxis else self.setYRange
            follow(*view.viewRange()[axis], padding=0)
        finally:
            view.blockLink(False)

    def mouseClickEvent(self, event: object) -> None:
        """A click: told with its place in pixels of the scene."""
        if event.button() != Qt.MouseButton.LeftButton:  # type: ignore[attr-defined]
            return
        event.accept()  # type: ignore[attr-defined]
        if event.double():  # type: ignore[attr-defined]
            if self.on_double_click is not None:
                self.on_double_click()
        elif self.on_click is not None:
            self.on_click(event.scenePos(), event.modifiers())  # type: ignore[attr-defined]

    def mouseDragEvent(self, event: object, axis: int | None = None) -> None:
        """A left drag is handed on where somebody takes it; any other moves the view."""
        left = event.button() == Qt.MouseButton.LeftButton  # type: ignore[attr-defined]
        held = not self.drag_keys or bool(event.modifiers() & self.drag_keys)  # type: ignore[attr-defined]
        if left and held and self.on_drag is not None:
            event.accept()  # type: ignore[attr-defined]
            self.on_drag(
                event.buttonDownScenePos(),  # type: ignore[attr-defined]
                event.scenePos(),  # type: ignore[attr-defined]
                event.isFinish(),  # type: ignore[attr-defined]
                event.modifiers(),  # type: ignore[attr-defined]
            )
        else:
            super().mouseDragEvent(event, axis)


class Framed(pg.GraphicsWidget):  # type: ignore[misc]
    """A ground with an axis at its left and one below; the library's own plot brings menus with it."""

    def __init__(self, ground: Ground, left: QuietAxis, bottom: QuietAxis) -> None:
        super().__init__()
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.setContentsMargins(0, 4, 10, 0)
        grid = QGraphicsGridLayout(self)
        grid.setContentsMargins(1, 1, 1, 1)
        grid.setSpacing(0)
        for item, row, column in ((ground, 0, 1), (left, 0, 0), (bottom, 1, 1)):
            grid.addItem(item, row, column)
        grid.setRowStretchFactor(0, 1)
        grid.setColumnStretchFactor(1, 1)
        for axis in (left, bottom):
            axis.linkToView(ground)
            axis.setZValue(0.5)
            axis.setFlag(QGraphicsItem.GraphicsItemFlag.ItemNegativeZStacksBehindParent)

    def event(self, event: QEvent) -> bool:
        """It looks the same in a window that is active: the library would draw all of it anew, twice."""
        return event.type() in ACTIVATION or bool(super().event(event))


ACTIVATION = (QEvent.Type.WindowActivate, QEvent.Type.WindowDeactivate)


class PlotArea(pg.GraphicsView):  # type: ignore[misc]
    """A plot with our axes; tells where the pointer is and what was clicked."""

    pointed = Signal(float, float)
    left = Signal()

    def __init__(self, parent: QWidget | None = None) -> None:
        self.ground = Ground()
        self.left_axis, self.bottom_axis = QuietAxis("left"), QuietAxis("bottom")
        super().__init__(parent, background=colours.PAPER)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)
        self.enableMouse(False)
        self.setCentralItem(Framed(self.ground, self.left_axis, self.bottom_axis))
        self.left_axis.setWidth(LEFT_AXIS_WIDTH)
        self.bottom_axis.setHeight(TALL)
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.scene().sigMouseMoved.connect(self._on_moved)
        self.scene().setMoveDistance(4)
        self.layers = Layers(self.ground)
        self._cursor: pg.InfiniteLine | None = None
        self._by_keys = False

    def useOpenGL(self, b: bool = True) -> None:
        """Plots are drawn without it, on a widget of our own: for one of its own Qt lists all its kinds."""
        inside = QWidget()
        inside.setBackgroundRole(QPalette.ColorRole.Base)
        inside.setAutoFillBackground(True)  # nothing behind it is drawn then
        self.setViewport(inside)

    def addItem(self, item: QGraphicsItem, ignoreBounds: bool = False) -> None:
        """Draw something in data units; the range of the view need not be its."""
        self.ground.addItem(item, ignoreBounds=ignoreBounds)

    def removeItem(self, item: QGraphicsItem) -> None:
        """Draw it no more."""
        self.ground.removeItem(item)

    def focusInEvent(self, event: QFocusEvent) -> None:
        """Show where the keys go."""
        super().focusInEvent(event)
        self._by_keys = event.reason() in BY_KEYS
        self.viewport().update()

    def focusOutEvent(self, event: QFocusEvent) -> None:
        """The keys go elsewhere."""
        super().focusOutEvent(event)
        self._by_keys = False
        self.viewport().update()

    @guarded
    def drawForeground(self, painter: QPainter, rect: QRectF) -> None:
        """An outline around a plot that has the keys."""
        super().drawForeground(painter, rect)
        if self._by_keys:
            painter.save()
            painter.resetTransform()
            painter.setPen(pen(colours.ACCENT, 1.0))
            painter.drawRect(self.viewport().rect().adjusted(0, 0, -1, -1))
            painter.restore()

    def hide_figures(self) -> None:
        """Ticks without figures on the bottom axis: another view under this one has them."""
        self.bottom_axis.setStyle(showValues=False)
        self.bottom_axis.setHeight(BARE_AXIS_HEIGHT)

    def show_axes(self, on: bool) -> None:
        """Both axes, with the room that they take; or neither."""
        others = [axis for axis in (self.left_axis, self.bottom_axis) if axis.isVisible() != on]
        for axis in others:
            if on:
                axis.show()
            else:
                axis.hide()
        if others:  # laid out later, all of it would be drawn once more
            self.centralWidget.layout().activate()

    def settle(self) -> None:
        """Take over new ranges now: done in the middle of painting, they would paint everything twice."""
        self.scene().prepareForPaint()

    def draw_rules(self, rules: tuple[Rule, ...]) -> None:
        """Zero lines and limits."""
        limit, zero = pen(colours.ALARM, 1.0, dashes=True), pen(colours.HAIRLINE)
        strokes = [Across(rule.at, rule.vertical, limit if rule.alarm else zero) for rule in rules]
        self.layers.show(RULES, strokes)

    def draw_curves(
        self, curves: Sequence[Curve], areas: Sequence[Area] = (), flags: Sequence[Flags] = ()
    ) -> None:
        """Curves, regions and signs over marks, each at its depth."""
        for depth, strokes in curve_layers(curves, areas, flags).items():
            self.layers.show(depth, strokes)

    @property
    def cursor(self) -> float | None:
        """Where the cursor stands on the level axis; None where none is shown."""
        line = self._cursor
        return None if line is None or not line.isVisible() else float(line.value())

    def set_cursor(self, place: float | None) -> None:
        """Move the cursor along the level axis, or hide it."""
        if self._cursor is None:
            if place is None:
                return
            self._cursor = pg.InfiniteLine(angle=90, pen=pen(colours.INK, 1.0, dashes=True))
            self._cursor.setZValue(CURSOR)
            self.addItem(self._cursor, ignoreBounds=True)
        self._cursor.setVisible(place is not None)
        if place is not None:
            self._cursor.setValue(place)

    def to_pixels(self, x: np.ndarray, y: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
        """Data to pixels of the scene, (m,) → (m,)."""
        (left, right), (bottom, top) = self.ground.viewRange()
        area = self.ground.sceneBoundingRect()
        across = area.left() + (x - left) / (right - left) * area.width()
        down = area.bottom() - (y - bottom) / (top - bottom) * area.height()
        return across, down

    def to_data(self, place: QPointF) -> tuple[float, float]:
        """A place in the scene to data."""
        point = self.ground.mapSceneToView(place)
        return point.x(), point.y()

    def _on_moved(self, place: QPointF) -> None:
        if self.ground.sceneBoundingRect().contains(place):
            self.pointed.emit(*self.to_data(place))
        else:
            self.left.emit()

    def leaveEvent(self, event: QEvent) -> None:
        """The pointer is gone."""
        super().leaveEvent(event)
        self.left.emit()
