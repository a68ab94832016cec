"""The ladder of several tables: boxes for every set of them, each with a handle of its own."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import QColor, QHelpEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QToolTip, QWidget

from scutcher.charts import colours
from scutcher.charts.blocks.ladder import Rung, Rungs
from scutcher.desk.guard import guarded
from scutcher.desk.painting.painters import paint_rung, painter_of
from scutcher.desk.painting.share_bars import brush_of
from scutcher.desk.words import tip

BOX, GAP, BETWEEN, TALL, TOP = 22.0, 4.0, 20.0, 30.0, 9.0
NARROWEST, TIGHT = 7.0, 9.0
LEFT = 6.0


class BlockLadder(QWidget):
    """Handles are dragged, or chosen with Up and Down and moved with Left and Right.

    `decided` tells the names of the tables of a set and how many components it is to have.
    """

    decided = Signal(object, int)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.groups: tuple[Rungs, ...] = ()
        self._held: int | None = None
        self._held_kept = 0
        self.chosen = 0
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setCursor(Qt.CursorShape.SizeHorCursor)

    def show_groups(self, groups: tuple[Rungs, ...]) -> None:
        """Put other figures in."""
        self.groups, self._held = groups, None
        self.chosen = min(self.chosen, max(len(groups) - 1, 0))
        self.setMinimumWidth(int(self._wide(NARROWEST, TIGHT)))
        self.setMaximumWidth(self.sizeHint().width())
        self._say()
        self.update()

    def _say(self) -> None:
        said = "; ".join(f"{' & '.join(one.tables)} {one.kind}: {one.count}" for one in self.groups)
        now = " & ".join(self.groups[self.chosen].tables) if self.groups else "no model yet"
        self.setAccessibleName(f"Components of the tables, handle of {now}. {said}")

    def sizeHint(self) -> QSize:
        """Wide enough for all boxes."""
        return QSize(int(self._wide(BOX, BETWEEN)), 58)

    def _wide(self, box: float, between: float) -> float:
        boxes = sum(len(one.rungs) for one in self.groups)
        return 2.0 * LEFT + boxes * (box + GAP) + max(len(self.groups) - 1, 0) * (between - GAP)

    @property
    def _between(self) -> float:
        """Between two sets: less where there is no room."""
        return BETWEEN if self.width() >= self._wide(BOX / 2.0, BETWEEN) else TIGHT

    @property
    def _box(self) -> float:
        boxes = max(sum(len(one.rungs) for one in self.groups), 1)
        spare = self.width() - self._wide(0.0, self._between)
        return float(min(max(spare / boxes, NARROWEST), BOX))

    def box(self, group: int, rung: int) -> QRectF:
        """Where a box is drawn."""
        wide = self._box
        left = LEFT
        for one in self.groups[:group]:
            left += len(one.rungs) * (wide + GAP) + self._between - GAP
        return QRectF(left + rung * (wide + GAP), TOP, wide, TALL)

    def handle_x(self, group: int, kept: int) -> float:
        """Where the handle of a set stands when so many of its boxes are kept."""
        first = self.box(group, 0).left()
        return first + kept * (self._box + GAP) - GAP / 2.0

    def group_at(self, x: float) -> int:
        """The set whose boxes or handle are nearest to a place."""
        ends = [
            (self.handle_x(place, 0), self.handle_x(place, len(one.rungs)))
            for place, one in enumerate(self.groups)
        ]
        away = [max(low - x, x - high, 0.0) for low, high in ends]
        return min(range(len(away)), key=away.__getitem__)

    def _kept_at(self, group: int, x: float) -> int:
        count = round((x - self.handle_x(group, 0)) / (self._box + GAP))
        one = self.groups[group]
        least = 1 if one.hidden else 0
        return int(min(max(count, least), len(one.rungs)))

    def rung_at(self, at: QPointF) -> Rung | None:
        """The box under a place."""
        for group, one in enumerate(self.groups):
            for place, rung in enumerate(one.rungs):
                if self.box(group, place).adjusted(-1, -TOP, 1, 20).contains(at):
                    return rung
        return None

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        """Boxes filled up to the agreement, held out as a line, a handle for each set."""
        painter = painter_of(self, 10)
        for group, one in enumerate(self.groups):
            kept = self._held_kept if group == self._held else one.kept
            for place, rung in enumerate(one.rungs):
                self._paint_box(painter, group, place, rung, place < kept)
            self._paint_names(painter, group, kept)
            x = self.handle_x(group, kept)
            focused = self.hasFocus() and group == self.chosen
            painter.setPen(QPen(QColor(colours.ACCENT if focused else colours.INK), 2.0))
            painter.drawLine(QPointF(x, TOP - 2.0), QPointF(x, TOP + TALL + 3.0))
            painter.setPen(Qt.PenStyle.NoPen)
            painter.setBrush(QColor(colours.ACCENT if focused else colours.INK))
            painter.drawRoundedRect(QRectF(x - 4.0, 0.0, 8.0, 10.0), 2.0, 2.0)

    def _paint_box(self, painter: QPainter, group: int, place: int, rung: Rung, kept: bool) -> None:
        one, box = self.groups[group], self.box(group, place)
        filling = brush_of(one.kind, rung.name) if kept else QColor(colours.CHIP)
        paint_rung(painter, box, rung.value, filling, rung.held_out)

    def _paint_names(self, painter: QPainter, group: int, kept: int) -> None:
        """Under each box its name; where they are too narrow the letters of the set under all of them."""
        rungs, metrics = self.groups[group].rungs, painter.fontMetrics()
        wide = self._box + GAP
        if max(metrics.horizontalAdvance(rung.name) for rung in rungs) + 3 > wide:
            whole = self.box(group, 0).united(self.box(group, len(rungs) - 1)).adjusted(-9, 0, 9, 0)
            under = QRectF(whole.left(), whole.bottom() + 2.0, whole.width(), 14.0)
            painter.setPen(QColor(colours.INK))
            painter.drawText(under, Qt.AlignmentFlag.AlignCenter, rungs[0].name.rstrip("0123456789"))
            return
        for place, rung in enumerate(rungs):
            box = self.box(group, place)
            painter.setPen(QColor(colours.INK if place < kept else colours.MUTED))
            under = QRectF(box.left() - GAP / 2.0, box.bottom() + 2.0, wide, 14.0)
            painter.drawText(under, Qt.AlignmentFlag.AlignCenter, rung.name)

    def event(self, event: QEvent) -> bool:
        """The tooltip of the box under the pointer."""
        if isinstance(event, QHelpEvent):
            rung = self.rung_at(QPointF(event.pos()))
            QToolTip.showText(event.globalPos(), "" if rung is None else tip(rung.said), self)
            return True
        return super().event(event)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Take the handle of the set that is pressed on."""
        if self.groups and event.button() == Qt.MouseButton.LeftButton:
            self._held = self.chosen = self.group_at(event.position().x())
            self._held_kept = self.groups[self._held].kept
            self._say()
            self.update()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """The handle follows."""
        if self._held is not None:
            self._held_kept = self._kept_at(self._held, event.position().x())
            self.update()

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """One decision on release."""
        if self._held is not None:
            group, self._held = self._held, None
            self._decide(group, self._kept_at(group, event.position().x()))

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Up and Down choose a handle, Left and Right move it by one."""
        key = Qt.Key(event.key())
        other = {Qt.Key.Key_Up: -1, Qt.Key.Key_Down: 1}.get(key)
        step = {Qt.Key.Key_Left: -1, Qt.Key.Key_Right: 1}.get(key)
        if not self.groups or (other is None and step is None):
            super().keyPressEvent(event)
            return
        if other is not None:
            self.chosen = (self.chosen + other) % len(self.groups)
            self._say()
            self.update()
        elif step is not None:
            one = self.groups[self.chosen]
            self._decide(self.chosen, min(max(one.kept + step, 1 if one.hidden else 0), len(one.rungs)))

    def _decide(self, group: int, kept: int) -> None:
        one = self.groups[group]
        if kept != one.kept:
            self.decided.emit(one.tables, one.hidden + kept)
        else:
            self.update()
