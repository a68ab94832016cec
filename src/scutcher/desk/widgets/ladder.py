"""The ladder: a box for each component, and a handle for how many are kept."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from scutcher.charts import colours
from scutcher.charts.ladder import Ladder
from scutcher.core.words import shown
from scutcher.desk.guard import guarded
from scutcher.desk.painting.painters import paint_rung, painter_of

BOX, GAP, TALL, TOP = 29.0, 5.0, 30.0, 9.0
NARROWEST, MARGINS = 20.0, 12
"""Pixels from one box to the next at least, and at both ends together."""


class LadderBars(QWidget):
    """Draws the boxes; the handle is dragged, or moved with the arrow keys.

    `moving` tells every number while the handle is held, `moved` the one it was let go at.
    """

    moving = Signal(int)
    moved = Signal(int)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.ladder: Ladder | None = None
        self._held: int | None = None
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.SizeHorCursor)

    def show_ladder(self, ladder: Ladder | None) -> None:
        """Put other figures in."""
        changed = (ladder is None) != (self.ladder is None) or (
            ladder is not None and self.ladder is not None and len(ladder.fitted) != len(self.ladder.fitted)
        )
        self.ladder = ladder
        self.setAccessibleName(_said(ladder))
        if changed:
            boxes = 10 if ladder is None else len(ladder.fitted)
            self.setMinimumWidth(int(boxes * NARROWEST + MARGINS))
            self.setMaximumWidth(self.sizeHint().width())
        self.update()

    def sizeHint(self) -> QSize:
        """Wide enough for all boxes."""
        boxes = 10 if self.ladder is None else len(self.ladder.fitted)
        return QSize(int(boxes * (BOX + GAP) + MARGINS), 58)

    @property
    def _step(self) -> float:
        """From one box to the next: less than usual where there is no room."""
        boxes = 10 if self.ladder is None else max(len(self.ladder.fitted), 1)
        return float(min(BOX + GAP, (self.width() - MARGINS) / boxes))

    def box(self, component: int) -> QRectF:
        """Where the box of a component (from 0) is drawn."""
        return QRectF(4.0 + component * self._step, TOP, self._step - GAP, TALL)

    def handle_x(self, kept: int) -> float:
        """Where the handle stands when so many are kept."""
        return self.box(kept - 1).right() + GAP / 2.0

    def kept_at(self, x: float) -> int:
        """How many are kept with the handle at a place."""
        count = len(self.ladder.fitted) if self.ladder else 1
        return int(min(max(round((x - 4.0) / self._step), 1), count))

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        """Boxes filled up to the fitted share, held-out share as a line, the handle."""
        if self.ladder is None:
            return
        painter = painter_of(self, 10)
        for component, share in enumerate(self.ladder.fitted.tolist()):
            self._paint_box(painter, component, share)
        x = self.handle_x(self.ladder.kept)
        painter.setPen(QPen(QColor(colours.INK), 2.0))
        painter.drawLine(QPointF(x, TOP - 2.0), QPointF(x, self.height() - 4.0))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(colours.ACCENT if self.hasFocus() else colours.INK))
        painter.drawRoundedRect(QRectF(x - 5.0, 0.0, 10.0, 11.0), 2.0, 2.0)

    def _paint_box(self, painter: QPainter, component: int, share: float) -> None:
        assert self.ladder is not None
        box = self.box(component)
        kept = component < self.ladder.kept
        filling = QColor(colours.ACCENT if kept else colours.CHIP)
        paint_rung(painter, box, share, filling, float(self.ladder.held_out[component]))
        painter.setPen(QColor(colours.INK if kept else colours.MUTED))
        under = QRectF(box.left() - GAP / 2.0, box.bottom() + 2.0, box.width() + GAP, 14.0)
        words = f"{component + 1}~" if self.ladder.is_noise(component) else str(component + 1)
        painter.drawText(under, Qt.AlignmentFlag.AlignCenter, words)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Take the handle, wherever the press is: it comes to the pointer."""
        if self.ladder is not None and event.button() == Qt.MouseButton.LeftButton:
            self._held = self.ladder.kept
            self._move_to(event.position().x())

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """Every number on the way is told."""
        if self._held is not None:
            self._move_to(event.position().x())

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """One command on release."""
        if self._held is not None:
            kept, self._held = self.kept_at(event.position().x()), None
            self.moved.emit(kept)

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Left and right move the handle by one."""
        step = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(Qt.Key(event.key()))
        if self.ladder is None or step is None:
            super().keyPressEvent(event)
            return
        kept = self.ladder.kept + step
        if 1 <= kept <= self.ladder.rank:
            self.moved.emit(kept)

    def _move_to(self, x: float) -> None:
        kept = self.kept_at(x)
        if self.ladder is not None and kept != self.ladder.kept:
            self.moving.emit(kept)


def _said(ladder: Ladder | None) -> str:
    """What the ladder shows, for somebody who hears it."""
    if ladder is None or not len(ladder.fitted):
        return "Components kept: no model yet"
    place = min(ladder.kept, len(ladder.fitted)) - 1
    held = ladder.held_out[place] if place < len(ladder.held_out) else float("nan")
    q2 = "" if held != held else f", Q² {shown(held, '.3f')}"
    return f"Components kept: {ladder.kept} of {ladder.rank}, R² {shown(ladder.fitted[place], '.3f')}{q2}"
