"""A strip without a mouse: arrows go from channel to channel and from line to line, Space picks.

Enter begins a stretch of channels and a second one ends it, wherever a drag would pick one; Escape leaves it.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

import numpy as np
from PySide6.QtCore import QPointF, Qt
from PySide6.QtGui import QKeyEvent

from scutcher.charts.emphasis import HIDDEN
from scutcher.core.arrays import Floats

if TYPE_CHECKING:
    from scutcher.desk.painting.strip import StripView

STEPS = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}
ENDS = {Qt.Key.Key_Home: 0, Qt.Key.Key_End: -1}
LINES = {Qt.Key.Key_Up: 1, Qt.Key.Key_Down: -1}
ENTER = (Qt.Key.Key_Return, Qt.Key.Key_Enter)
FAR = 10
"""Channels that an arrow goes with Shift held."""


class StripKeys:
    """What keys do on one strip; it does by hand what the pointer would."""

    def __init__(self, view: StripView) -> None:
        self._view = view
        self._channel: float | None = None
        self._line: int | None = None
        self._start: float | None = None

    @property
    def stretching(self) -> bool:
        """Whether a stretch has been begun."""
        return self._start is not None

    def pressed(self, event: QKeyEvent) -> bool:
        """Whether a key meant something here."""
        key, held = Qt.Key(event.key()), event.modifiers()
        places = self._places()
        if not len(places):
            return False
        if key in STEPS or key in ENDS:
            self._go(places, key, bool(held & Qt.KeyboardModifier.ShiftModifier))
        elif key in LINES:
            return self._next_line(LINES[key])
        elif key == Qt.Key.Key_Space:
            return self._pick(held)
        elif key in ENTER:
            return self._stretch(held)
        elif key == Qt.Key.Key_Escape and self._start is not None:
            self._start = None
            self._view.clear_range()
        else:
            return False
        return True

    def _places(self) -> Floats:
        """The channels that can be seen, in the order of the axis."""
        chart = self._view.chart
        series = None if chart is None else (chart.lines or chart.ribbon)
        if series is None:
            return np.empty(0)
        low, high = self._view.ground.viewRange()[0]
        return np.sort(series.x[(series.x >= low) & (series.x <= high)])

    def _go(self, places: Floats, key: Qt.Key, far: bool) -> None:
        if key in ENDS:
            at = ENDS[key] % len(places)
        elif self._channel is None:
            at = len(places) // 2
        else:
            at = int(np.abs(places - self._channel).argmin()) + STEPS[key] * (FAR if far else 1)
        self._channel = float(places[min(max(at, 0), len(places) - 1)])
        self._view.set_cursor(self._channel)
        self._view.channel.emit(self._channel)
        if self._start is not None and self._view.ground.on_drag is not None:
            self._view.ground.on_drag(*self._ends(), False, Qt.KeyboardModifier.NoModifier)

    def _next_line(self, way: int) -> bool:
        """The sample whose line is the next above or below the last one, at the channel."""
        lines = None if self._view.chart is None else self._view.chart.lines
        if lines is None or lines.role != "sample" or not lines.ys.size:
            return False
        column = 0 if self._channel is None else int(np.abs(lines.x - self._channel).argmin())
        values = np.where(self._view.strength == HIDDEN, np.nan, lines.ys[:, column])
        order = np.argsort(values)[: int(np.isfinite(values).sum())]
        if not len(order):
            return False
        known = np.flatnonzero(lines.keys[order] == self._line)
        at = int(known[0]) + way if len(known) else len(order) // 2
        self._line = int(lines.keys[order[min(max(at, 0), len(order) - 1)]])
        self._view.hover_line(self._line)
        self._view.hovered.emit(self._line)
        return True

    def _pick(self, held: Qt.KeyboardModifier) -> bool:
        if self._view.picks_channels:
            if self._channel is None or self._view.ground.on_click is None:
                return False
            self._view.ground.on_click(self._scene(self._channel), held)
            return True
        if self._line is None:
            return False
        self._view.picked.emit(self._line, held)
        return True

    def _stretch(self, held: Qt.KeyboardModifier) -> bool:
        drag = self._view.ground.on_drag
        if drag is None or self._channel is None:
            return False
        if self._start is None:
            self._start = self._channel
            drag(*self._ends(), False, held)
        else:
            ends, self._start = self._ends(), None
            drag(*ends, True, held)
        return True

    def _ends(self) -> tuple[QPointF, QPointF]:
        """Both channels, whole."""
        assert self._start is not None and self._channel is not None
        places = self._places()
        beyond = 0.25 * float(np.median(np.diff(places))) if len(places) > 1 else 0.0
        beyond = beyond if self._channel >= self._start else -beyond
        return self._scene(self._start - beyond), self._scene(self._channel + beyond)

    def _scene(self, channel: float) -> QPointF:
        """A place in pixels of the scene at a channel, half way up."""
        low, high = self._view.ground.viewRange()[1]
        found: QPointF = self._view.ground.mapViewToScene(QPointF(channel, (low + high) / 2.0))
        return found
