"""One knot of the trail: a ring on the thread, a name, a line of small print, a miniature."""

from __future__ import annotations

from PySide6.QtCore import QPointF, Qt, Signal
from PySide6.QtGui import QColor, QContextMenuEvent, QKeyEvent, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QHBoxLayout, QToolButton, QVBoxLayout, QWidget

from scutcher.charts import colours
from scutcher.charts.description import Lines
from scutcher.desk.guard import guarded
from scutcher.desk.trail.miniature import Miniature
from scutcher.desk.widgets.note import Note
from scutcher.desk.words import Words

THREAD_X, RING_Y, RING = 12, 11, 5
DRAG_FROM = 8  # pixels


class Knot(QWidget):
    """A place on the trail. Click it to see the data there."""

    chosen = Signal()
    switched = Signal(bool)
    dragged = Signal(int, bool)
    menu_asked = Signal(object)

    def __init__(
        self, with_picture: bool = True, with_ring: bool = True, parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self.with_ring = with_ring
        self.first, self.last, self.is_chosen, self.is_on = False, False, False, True
        self.movable, self._dragging = False, False
        self._pressed: float | None = None
        self.trouble = False
        self._described: tuple[object, ...] = (None,) * 5
        self.name, self.small = Note(), Words()
        self.name.setObjectName("strong")
        self.small.setObjectName("quiet")
        self.small.setWordWrap(True)
        self.words = QHBoxLayout()
        self.words.setSpacing(2)
        self.words.addWidget(self.name, 1)
        self.switch = QToolButton()
        self.switch.setCheckable(True)
        self.switch.setChecked(True)
        self.switch.setText("off")
        self.switch.setFixedSize(self.switch.sizeHint())  # whichever it says, nothing beside it moves
        self.switch.hide()
        self.switch.clicked.connect(self.switched)
        self.words.addWidget(self.switch)
        self.picture = Miniature()
        if not with_picture:
            self.picture.hide()
        self.body = QVBoxLayout(self)
        self.body.setContentsMargins(24, 2, 8, 10)
        self.body.setSpacing(1)
        self.body.addLayout(self.words)
        self.body.addWidget(self.small)
        self.body.addSpacing(2)
        self.body.addWidget(self.picture)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus)

    def describe(self, name: str, small: str, lines: Lines | None, on: bool = True) -> None:
        """What stands beside the ring; the same again is not painted again."""
        described = name, small, lines, on, self.trouble
        if all(one is other or one == other for one, other in zip(described, self._described, strict=True)):
            return
        self._described = described
        self.name.setText(name)
        if on != self.is_on:
            self.name.mute(not on)
        self.small.setText(small)
        self.small.setVisible(bool(small))
        self.is_on = on
        self.switch.setChecked(on)
        self.switch.setText("on" if on else "off")
        self.picture.show_lines(lines)
        self.setAccessibleName(name)
        self.setAccessibleDescription(
            ", ".join(part for part in (small, "" if on else "switched off") if part)
        )
        self.update()

    def choose(self, chosen: bool) -> None:
        """Whether this knot's data are on the signals strip."""
        if chosen != self.is_chosen:
            self.is_chosen = chosen
            self.update()

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        """Draw the thread and the ring."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setPen(QPen(QColor(colours.FADED), 2.0))
        top = RING_Y if self.first else 0
        bottom = RING_Y if self.last else self.height()
        painter.drawLine(QPointF(THREAD_X, top), QPointF(THREAD_X, bottom))
        if not self.with_ring:
            return
        colour = QColor(colours.ALARM if self.trouble else colours.ACCENT if self.is_on else colours.FADED)
        painter.setPen(QPen(colour, 2.0))
        painter.setBrush(colour if self.is_chosen else QColor(colours.PAPER))
        painter.drawEllipse(QPointF(THREAD_X, RING_Y), RING, RING)
        if self.hasFocus():
            painter.setBrush(Qt.BrushStyle.NoBrush)
            painter.setPen(QPen(QColor(colours.ACCENT), 1.0))
            painter.drawEllipse(QPointF(THREAD_X, RING_Y), RING + 3, RING + 3)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """Choose this knot; a step can be dragged along the thread from here."""
        if event.button() == Qt.MouseButton.LeftButton:
            self._pressed = event.position().y()
            self.chosen.emit()

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """A step that is dragged far enough tells where the pointer is."""
        if self.movable and self._pressed is not None:
            self._dragging = self._dragging or abs(event.position().y() - self._pressed) > DRAG_FROM
            if self._dragging:
                self.setCursor(Qt.CursorShape.ClosedHandCursor)
                self.dragged.emit(self.mapToParent(event.position().toPoint()).y(), False)

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """Let go of a step."""
        if self._dragging:
            self.unsetCursor()
            self.dragged.emit(self.mapToParent(event.position().toPoint()).y(), True)
        self._pressed, self._dragging = None, False

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        """What can be done with this knot."""
        self.menu_asked.emit(event.globalPos())

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Space or Return choose this knot."""
        if event.key() in (Qt.Key.Key_Space, Qt.Key.Key_Return):
            self.chosen.emit()
        else:
            super().keyPressEvent(event)


def link(words: str, tip: str) -> QToolButton:
    """A quiet button beside or below the name of a knot."""
    button = QToolButton()
    button.setText(words)
    button.setToolTip(tip)
    button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
    return button
