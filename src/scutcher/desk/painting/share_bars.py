"""Bars of shares: what of each table is common, shared, its own and left over."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QPointF, QRectF, Qt
from PySide6.QtGui import QBrush, QColor, QHelpEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QToolTip, QWidget

from scutcher.charts import colours
from scutcher.charts.blocks.shares import Bar, Piece
from scutcher.desk.guard import guarded
from scutcher.desk.words import tip

NAME, HEAD, FOOT, GAP = 118.0, 4.0, 22.0, 8.0
KINDS = (
    ("common", "common to all"),
    ("shared", "shared by some"),
    ("own", "its own"),
    ("left over", "left over"),
)
LEAST = 14.0
"""Pixels of a line of words."""

KEY = 32
"""Pixels beside the words of each entry of the key."""


class ShareBars(QWidget):
    """A bar for each table; pieces tell what they are."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.bars: tuple[Bar, ...] = ()
        self.setMinimumHeight(96)
        self.setMouseTracking(True)

    def show_bars(self, bars: tuple[Bar, ...]) -> None:
        """Put others in."""
        self.bars = bars
        said = "; ".join(f"{bar.name}: {', '.join(piece.said for piece in bar.pieces)}" for bar in bars)
        self.setAccessibleDescription(said)
        self.update()

    def places(self) -> list[tuple[Piece, QRectF]]:
        """Where each piece is drawn."""
        found = []
        count = max(len(self.bars), 1)
        high = min((self.height() - HEAD - FOOT) / count - GAP, 34.0)
        wide = max(self.width() - NAME - 14.0, 10.0)
        for row, bar in enumerate(self.bars):
            left, top = NAME, HEAD + row * (high + GAP)
            for piece in bar.pieces:
                width = wide * min(max(piece.share, 0.0), 1.0)
                found.append((piece, QRectF(left, top, width, high)))
                left += width
        return found

    def event(self, event: QEvent) -> bool:
        """The tooltip of the piece under the pointer."""
        if isinstance(event, QHelpEvent):
            at = QPointF(event.pos())
            piece = next((piece for piece, area in self.places() if area.contains(at)), None)
            QToolTip.showText(event.globalPos(), "" if piece is None else tip(piece.said), self)
            return True
        return super().event(event)

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        """Names, pieces and the key."""
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        metrics = painter.fontMetrics()
        done: set[float] = set()
        for piece, area in self.places():
            painter.setPen(QPen(QColor(colours.PAPER), 1.0))
            painter.setBrush(brush_of(piece.kind, piece.name))
            painter.drawRect(area)
            if piece.kind == "left over":
                painter.setPen(QPen(QColor(colours.HAIRLINE), 1.0))
                painter.drawRect(area.adjusted(0, 0.5, -0.5, -0.5))
            if metrics.horizontalAdvance(piece.name) + 6 < area.width():
                dark = piece.kind in ("common", "held out")
                painter.setPen(QColor(colours.PAPER if dark else colours.INK))
                painter.drawText(area, Qt.AlignmentFlag.AlignCenter, piece.name)
            if area.top() not in done:
                done.add(area.top())
                self._name(painter, self.bars[len(done) - 1], area)
        self._key(painter)

    def _name(self, painter: QPainter, bar: Bar, area: QRectF) -> None:
        metrics = painter.fontMetrics()
        half = area.height() / 2.0
        first = area.height() if half < LEAST else half
        name = metrics.elidedText(bar.name, Qt.TextElideMode.ElideMiddle, int(NAME) - 14)
        painter.setPen(QColor(colours.INK))
        side = Qt.AlignmentFlag.AlignLeft | Qt.AlignmentFlag.AlignVCenter
        painter.drawText(QRectF(8, area.top() - 1, NAME - 12, first), side, name)
        if half < LEAST:
            return
        painter.setPen(QColor(colours.MUTED))
        painter.drawText(QRectF(8, area.top() + half - 1, NAME - 12, half), side, bar.size)

    def _key(self, painter: QPainter) -> None:
        metrics, top = painter.fontMetrics(), self.height() - FOOT + 4.0
        whole = sum(metrics.horizontalAdvance(words) + KEY for _, words in KINDS)
        left = max(min(NAME, self.width() - whole), 8.0)  # under the names where there is no room beside them
        for kind, words in KINDS:
            painter.setPen(QPen(QColor(colours.HAIRLINE), 1.0))
            painter.setBrush(brush_of(kind, ""))
            painter.drawRect(QRectF(left, top + 2, 11, 9))
            painter.setPen(QColor(colours.MUTED))
            wide = metrics.horizontalAdvance(words)
            painter.drawText(QRectF(left + 16, top - 3, wide + 4, 18), Qt.AlignmentFlag.AlignVCenter, words)
            left += wide + KEY


def brush_of(kind: str, name: str) -> QBrush:
    """The colour of a kind; hatched where only some tables share it."""
    if kind in ("common", "held out"):
        return QBrush(QColor(colours.LATER if name.startswith(("C2", "C3", "C4")) else colours.ACCENT))
    if kind == "shared":
        return QBrush(QColor(colours.ACCENT), Qt.BrushStyle.BDiagPattern)
    return QBrush(QColor(colours.OWN if kind == "own" else colours.PAPER))
