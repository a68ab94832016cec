"""The areas of a window, that F6 goes through: bar, trail, each panel of the page, bottom bar."""

from __future__ import annotations

from PySide6.QtCore import QPoint, Qt
from PySide6.QtWidgets import QAbstractItemView, QFrame, QGraphicsView, QWidget

from scutcher.desk.pages.page_stack import PageStack

PANEL = "panel"


class Areas:
    """Goes from one area to the next; comes back to the control that had the keys there before."""

    def __init__(self, window: QWidget, around: tuple[QWidget, QWidget, QWidget], stack: PageStack) -> None:
        self._window, self._stack = window, stack
        self._topbar, self._trail, self._bottom = around
        self._last: dict[QWidget, QWidget] = {}

    def every(self) -> list[QWidget]:
        """Those that are seen and can take the keys, in the order of reading."""
        panels = [
            frame
            for frame in self._stack.findChildren(QFrame)
            if frame.objectName() == PANEL and frame.isVisibleTo(self._window)
        ]
        inner = [
            panel
            for panel in panels
            if not any(panel.isAncestorOf(other) for other in panels if other is not panel)
        ]
        inner.sort(key=lambda panel: _corner(panel, self._window))
        areas: list[QWidget] = [
            self._topbar,
            self._trail,
            *inner,
            *([] if inner else [self._stack]),
            self._bottom,
        ]
        return [area for area in areas if area.isVisibleTo(self._window) and _ways_in(area)]

    def step(self, by: int) -> None:
        """Give the keys to the next area, or to the one before."""
        areas = self.every()
        if not areas:
            return
        now = self._window.focusWidget()
        here = next((k for k, area in enumerate(areas) if now is not None and area.isAncestorOf(now)), None)
        if here is not None and now is not None:
            self._last[areas[here]] = now
        start = (-1 if by > 0 else 0) if here is None else here
        area = areas[(start + by) % len(areas)]
        ways = _ways_in(area)
        last = self._last.get(area)
        (last if last in ways else ways[0]).setFocus(Qt.FocusReason.ShortcutFocusReason)


def _ways_in(area: QWidget) -> list[QWidget]:
    """What in an area can take the keys: its chart or table before the words on it."""
    found = [
        widget
        for widget in (area, *area.findChildren(QWidget))
        if widget.focusPolicy() & Qt.FocusPolicy.TabFocus and widget.isVisible() and widget.isEnabled()
    ]
    return sorted(found, key=lambda widget: not isinstance(widget, QGraphicsView | QAbstractItemView))


def _corner(widget: QWidget, window: QWidget) -> tuple[int, int]:
    place = widget.mapTo(window, QPoint(0, 0))
    return place.y() // 40, place.x()
