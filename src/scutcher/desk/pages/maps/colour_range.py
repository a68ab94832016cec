"""The values of a map as a histogram, with two ends to drag: the range of its colours."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt
from PySide6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from scutcher.charts import colours
from scutcher.charts.maps import PictureMap, robust_range, some_known
from scutcher.charts.words import significant, with_minus
from scutcher.desk.guard import guarded
from scutcher.desk.widgets.item_keys import ItemKeys

BINS, SIDE, FOOT, HEAD = 64, 10, 18, 12
GRIP = 8


class RangeView(QWidget):
    """`changed` is told both ends while one is dragged."""

    def __init__(self, changed: Callable[[float, float], None]) -> None:
        super().__init__()
        self._changed = changed
        self.one: PictureMap | None = None
        self.counts = np.zeros(BINS)
        self.reach = (0.0, 1.0)
        self._held: int | None = None
        more = {
            Qt.Key.Key_Left: lambda: self._move(0, -1),
            Qt.Key.Key_Right: lambda: self._move(0, 1),
            Qt.Key.Key_Down: lambda: self._move(1, -1),
            Qt.Key.Key_Up: lambda: self._move(1, 1),
            Qt.Key.Key_Home: self._robust,
        }
        self.keys = ItemKeys(self, "Range of the colours", list, lambda place: None, more=more)
        self.setMinimumHeight(64)
        self.setMouseTracking(True)
        self.setToolTip(
            "How many pixels have which value, counts logarithmic. Drag an end: the range of the colours; "
            "double click: the range that leaves out 2 % at each end. "
            "Keys: Left and Right move the lower end, Down and Up the upper one, Home does as a double click"
        )

    def sizeHint(self) -> QSize:
        """Some room."""
        return QSize(220, 80)

    def show_map(self, one: PictureMap | None) -> None:
        """The values of another map."""
        same = one is not None and self.one is not None and one.values is self.one.values
        self.one = one
        if one is not None and not same:
            known = some_known(one.values)
            low, high = (float(known.min()), float(known.max())) if len(known) else (0.0, 1.0)
            low, high = min(low, one.low), max(high, one.high)
            self.reach = (low, high if high > low else low + 1.0)
            self.counts = np.histogram(known, BINS, self.reach)[0]
        self.update()

    def place_of(self, value: float) -> float:
        """Where a value stands."""
        low, high = self.reach
        return SIDE + (value - low) / (high - low) * (self.width() - 2 * SIDE)

    def _value_at(self, x: float) -> float:
        low, high = self.reach
        share = (x - SIDE) / max(self.width() - 2 * SIDE, 1)
        return low + min(max(share, 0.0), 1.0) * (high - low)

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        """Bars in the colours of the map, and the ends."""
        painter = QPainter(self)
        one = self.one
        if one is None or one.tone == "categories":
            painter.setPen(QColor(colours.MUTED))
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, "This map has no range.")
            return
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        foot = self.height() - FOOT
        edges = np.linspace(*self.reach, BINS + 1)
        tall = np.log1p(self.counts) / max(float(np.log1p(self.counts.max())), 1e-9) * (foot - HEAD)
        ramp = colours.signed_map() if one.tone == "two-sided" else colours.unsigned_map()
        span = one.high - one.low or 1.0
        for place in range(BINS):
            if not self.counts[place]:
                continue
            share = (0.5 * (edges[place] + edges[place + 1]) - one.low) / span
            step = int(min(max(share, 0.0), 1.0) * (len(ramp) - 1))
            left, right = self.place_of(edges[place]), self.place_of(edges[place + 1])
            bar = QRectF(left, foot - tall[place], max(right - left - 0.5, 1.0), tall[place])
            painter.setPen(QPen(QColor(colours.FADED), 0.5))
            painter.setBrush(QColor(*ramp[step]))
            painter.drawRect(bar)
        painter.setPen(QPen(QColor(colours.HAIRLINE), 1.0))
        painter.drawLine(QPointF(SIDE, foot), QPointF(self.width() - SIDE, foot))
        self._paint_ends(painter, one, foot)
        self.keys.outline(painter)

    def _paint_ends(self, painter: QPainter, one: PictureMap, foot: float) -> None:
        painter.setPen(QPen(QColor(colours.INK), 1.4))
        painter.setBrush(QColor(colours.INK))
        for which, value in enumerate((one.low, one.high)):
            x = self.place_of(value)
            painter.drawLine(QPointF(x, HEAD - 6), QPointF(x, foot))
            painter.drawRect(QRectF(x - 3.5, HEAD - 10, 7, 7))
            words = with_minus(significant(value))
            wide = painter.fontMetrics().horizontalAdvance(words)
            left = min(max(x - wide / 2, 0.0), self.width() - wide - 4)
            if which == 0:
                left = min(left, self.place_of(one.high) - wide - 4 - wide / 2)
            painter.drawText(QPointF(max(left, 0.0), self.height() - 4), words)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Take the nearer end."""
        if self.one is None or self.one.tone == "categories":
            return
        away = [abs(event.position().x() - self.place_of(v)) for v in (self.one.low, self.one.high)]
        self._held = int(np.argmin(away)) if min(away) <= 3 * GRIP else None

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Drag it; ends do not cross."""
        if self._held is None or self.one is None:
            return
        value = self._value_at(event.position().x())
        self._put(self._held, value)

    def _put(self, which: int, value: float) -> None:
        """Another end, 0 for the lower one."""
        assert self.one is not None
        gap = 1e-3 * (self.reach[1] - self.reach[0])
        if which == 0:
            self._changed(min(value, self.one.high - gap), self.one.high)
        else:
            self._changed(self.one.low, max(value, self.one.low + gap))

    def _move(self, which: int, way: int) -> None:
        """An end by a fiftieth of what there is."""
        if self.one is not None and self.one.tone != "categories":
            low, high = self.reach
            value = (self.one.low, self.one.high)[which] + way * (high - low) / 50.0
            self._put(which, min(max(value, low), high))

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """Let go."""
        self._held = None

    def mouseDoubleClickEvent(self, event: QMouseEvent) -> None:
        """Back to what it was."""
        self._robust()

    def _robust(self) -> None:
        if self.one is not None and self.one.tone != "categories":
            self._changed(*robust_range(self.one.values, self.one.tone))
