"""Painted items without a mouse: arrows go from one to the next, Space or Enter does what a click would."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence

from PySide6.QtCore import QEvent, QObject, QRectF, Qt
from PySide6.QtGui import QColor, QKeyEvent, QPainter, QPen
from PySide6.QtWidgets import QWidget

from scutcher.charts import colours

STEPS = {Qt.Key.Key_Left: -1, Qt.Key.Key_Up: -1, Qt.Key.Key_Right: 1, Qt.Key.Key_Down: 1}
TAKE = (Qt.Key.Key_Space, Qt.Key.Key_Return, Qt.Key.Key_Enter)


class ItemKeys(QObject):
    """Gives a painted widget the keys; what it does itself with the pointer it is asked to do by these.

    Parameters
    ----------
    name : what a screen reader calls the whole
    areas : the places of the items, in the order of the keys
    taken : is told the item that is taken
    pointed : is told the item that the keys have come to
    more : what other keys do
    """

    def __init__(
        self,
        widget: QWidget,
        name: str,
        areas: Callable[[], Sequence[QRectF]],
        taken: Callable[[int], object],
        pointed: Callable[[int], object] | None = None,
        more: Mapping[Qt.Key, Callable[[], object]] | None = None,
    ) -> None:
        super().__init__(widget)
        self._widget, self._areas, self._taken, self._pointed = widget, areas, taken, pointed
        self._more = more or {}
        self.place: int | None = None
        widget.setAccessibleName(widget.accessibleName() or name)
        widget.setFocusPolicy(Qt.FocusPolicy.TabFocus)
        widget.installEventFilter(self)

    def eventFilter(self, watched: QObject, event: QEvent) -> bool:
        """Keys of the widget."""
        if event.type() in (QEvent.Type.FocusIn, QEvent.Type.FocusOut):
            self._widget.update()
        if event.type() != QEvent.Type.KeyPress or not isinstance(event, QKeyEvent):
            return False
        key, count = Qt.Key(event.key()), len(self._areas())
        if key in self._more:
            self._more[key]()
        elif not count:
            return False
        elif key in STEPS:
            self._go(0 if self.place is None else self.place + STEPS[key], count)
        elif key in TAKE and self.place is not None and self.place < count:
            self._taken(self.place)
        else:
            return False
        return True

    def _go(self, place: int, count: int) -> None:
        self.place = min(max(place, 0), count - 1)
        if self._pointed is not None:
            self._pointed(self.place)
        self._widget.update()

    def outline(self, painter: QPainter) -> None:
        """The outline around the item that the keys are at; around all of it before the first."""
        if not self._widget.hasFocus():
            return
        areas = self._areas()
        here = self.place is not None and self.place < len(areas)
        area = areas[self.place or 0] if here else QRectF(self._widget.rect())
        painter.setPen(QPen(QColor(colours.ACCENT), 1.0))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        painter.drawRect(area.adjusted(0.5, 0.5, -1.0, -1.0))
