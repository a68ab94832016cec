"""Many strokes painted as one item: an item of the plotting library for each costs more than painting it."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QRectF
from PySide6.QtGui import QPainter
from PySide6.QtWidgets import QGraphicsItem, QStyleOptionGraphicsItem, QWidget

from scutcher.desk.guard import guarded
from scutcher.desk.painting.plotting_library import pg
from scutcher.desk.painting.strokes import Stroke, with_room
from scutcher.desk.painting.to_pixels import ToPixels


class StrokesItem(QGraphicsItem):
    """Paints strokes, the later ones over the earlier; a click is meant for what lies under it."""

    def __init__(self, ground: pg.ViewBox, depth: float) -> None:
        super().__init__()
        self._ground = ground
        self.strokes: tuple[Stroke, ...] = ()
        self.setZValue(depth)
        ground.sigRangeChanged.connect(self._on_moved)

    def _on_moved(self) -> None:
        """Its bounds are those of the view."""
        self.prepareGeometryChange()

    def boundingRect(self) -> QRectF:
        """All that is seen of the plot, in data units: words and signs reach over the data by pixels."""
        return QRectF(self._ground.viewRect()) if self.strokes else QRectF()

    @guarded
    def paint(
        self, painter: QPainter, option: QStyleOptionGraphicsItem, widget: QWidget | None = None
    ) -> None:
        """Everything in pixels, so that no pen is as wide as an axis."""
        device = painter.device()
        to = ToPixels(painter.worldTransform(), device.width(), device.height())
        area = painter.worldTransform().mapRect(self.boundingRect())
        painter.save()
        painter.resetTransform()
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        for stroke in with_room(self.strokes, to, area):
            stroke.draw(painter, to)
        painter.restore()


class Layers:
    """The strokes of one plot, layer by layer; a layer is made when it is first drawn on."""

    def __init__(self, ground: pg.ViewBox) -> None:
        self._ground = ground
        self._items: dict[float, StrokesItem] = {}

    def show(self, depth: float, strokes: Sequence[Stroke]) -> None:
        """Put others on a layer, in place of those that are there."""
        item = self._items.get(depth)
        if item is None:
            if not strokes:
                return
            item = self._items[depth] = StrokesItem(self._ground, depth)
            self._ground.addItem(item, ignoreBounds=True)
        if strokes or item.strokes:
            item.prepareGeometryChange()
            item.strokes = tuple(strokes)
            item.update()

    def on(self, depth: float) -> tuple[Stroke, ...]:
        """What a layer holds."""
        item = self._items.get(depth)
        return () if item is None else item.strokes

    @property
    def every(self) -> tuple[Stroke, ...]:
        """What all layers hold, from the back to the front."""
        return tuple(stroke for depth in sorted(self._items) for stroke in self._items[depth].strokes)
