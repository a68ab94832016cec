"""The evidence chart: a row for each line, a dot where it points, and the handle across all of them."""

from __future__ import annotations

from PySide6.QtCore import QEvent, QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QFontMetrics, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QSizePolicy, QWidget

from scutcher.charts import colours
from scutcher.charts.rank import EvidenceRow
from scutcher.desk.guard import guarded
from scutcher.desk.painting.painters import painter_of
from scutcher.desk.widgets.item_keys import ItemKeys

NAME_WIDTH, ROW_LEAST = 178.0, 20.0


class EvidenceChart(QWidget):
    """Point at a row to read what it means; click a dot to keep so many."""

    chosen = Signal(int)
    pointed = Signal(object)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.rows: list[EvidenceRow] = []
        self.kept, self.most = 1, 15
        self._row: int | None = None
        self.keys = ItemKeys(self, "Lines of evidence", self._areas, self._take, self._light)
        self.setMouseTracking(True)
        self.setMinimumHeight(int(9 * ROW_LEAST) + 18)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Expanding)

    def show_rows(self, rows: list[EvidenceRow], kept: int, most: int) -> None:
        """Put other rows in."""
        self.rows, self.kept, self.most = rows, kept, most
        self.update()

    def numbers(self) -> tuple[list[str], list[list[object]]]:
        """Each line with what it suggests, and why it says nothing."""
        rows: list[list[object]] = [
            [row.name, "" if row.suggested is None else row.suggested, row.reason] for row in self.rows
        ]
        return ["line of evidence", "components", "note"], rows

    def row_top(self, place: int) -> float:
        """Where a row begins."""
        return 4.0 + place * self._tall()

    def dot(self, place: int) -> QPointF | None:
        """Where the dot of a row is, or None."""
        row = self.rows[place]
        if row.suggested is None:
            return None
        x = self.x_at(min(row.suggested, self.most + 0.4))
        return QPointF(x, self._middle(place))

    def x_at(self, components: float) -> float:
        """Where a number of components is, none of them included: from the names to the right edge."""
        left, right = NAME_WIDTH + 14.0, self.width() - 18.0
        return left + (components + 0.5) / (self.most + 1) * (right - left)

    def _middle(self, place: int) -> float:
        return self.row_top(place) + self._tall() / 2.0

    def _tall(self) -> float:
        return max((self.height() - 24.0) / max(len(self.rows), 1), ROW_LEAST)

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        """Names, hairlines, ranges, dots, the handle."""
        painter = painter_of(self, 11)
        for place in range(len(self.rows)):
            self._paint_hairline(painter, place)
        x = self.x_at(self.kept + 0.5)
        painter.setPen(QPen(QColor(colours.INK), 2.0))
        painter.drawLine(QPointF(x, 2.0), QPointF(x, self.height() - 18.0))
        for place, row in enumerate(self.rows):  # words over the handle, not crossed by it
            self._paint_row(painter, place, row)
        painter.setPen(QColor(colours.MUTED))
        every = max(1, -(-20 // max(int(self.x_at(1) - self.x_at(0)), 1)))
        for component in range(0, self.most + 1, every):
            under = QRectF(self.x_at(component) - 14.0, self.height() - 17.0, 28.0, 14.0)
            painter.drawText(under, Qt.AlignmentFlag.AlignCenter, str(component))
        self.keys.outline(painter)

    def _paint_hairline(self, painter: QPainter, place: int) -> None:
        if place == self._row:
            area = QRectF(0.0, self.row_top(place), self.width(), self._tall())
            painter.fillRect(area, QColor(colours.LINEN))
        painter.setPen(QPen(QColor(colours.HAIRLINE), 1.0))
        middle = self._middle(place)
        painter.drawLine(QPointF(self.x_at(-0.5), middle), QPointF(self.x_at(self.most + 0.5), middle))

    def _paint_row(self, painter: QPainter, place: int, row: EvidenceRow) -> None:
        top, tall = self.row_top(place), self._tall()
        painter.setPen(QColor(colours.INK if row.suggested is not None else colours.MUTED))
        painter.drawText(
            QRectF(8.0, top, NAME_WIDTH - 8.0, tall),
            Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter,
            row.name,
        )
        left, right = self.x_at(-0.5), self.x_at(self.most + 0.5)
        dot = self.dot(place)
        if dot is None:
            metrics = QFontMetrics(painter.font())
            words = metrics.elidedText(row.reason, Qt.TextElideMode.ElideRight, int(right - left) - 12)
            ground = QRectF(left + 4.0, top, metrics.horizontalAdvance(words) + 8.0, tall)
            painter.fillRect(ground.adjusted(0, 3, 0, -3), QColor(colours.PAPER))
            painter.setPen(QColor(colours.MUTED))
            painter.drawText(ground.adjusted(4, 0, 0, 0), Qt.AlignmentFlag.AlignVCenter, words)
            return
        if row.up_to is not None and row.suggested is not None and row.up_to > row.suggested:
            wide = QPen(QColor(colours.RANGE), 5.0)
            wide.setCapStyle(Qt.PenCapStyle.RoundCap)
            painter.setPen(wide)
            painter.drawLine(dot, QPointF(self.x_at(min(row.up_to, self.most)), dot.y()))
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(colours.ACCENT))
        if row.suggested is None or row.suggested <= self.most:
            painter.drawEllipse(dot, 5.0, 5.0)
        else:
            self._paint_beyond(painter, dot, row.suggested)
        if row.reason and row.suggested is not None:
            self._paint_note(painter, dot, row.reason, right)

    def _paint_note(self, painter: QPainter, dot: QPointF, words: str, right: float) -> None:
        """What there is to say, behind the dot; before it where there is more room."""
        metrics = painter.fontMetrics()
        left, wide = self.x_at(-0.5), metrics.horizontalAdvance(words) + 8.0
        x = dot.x() + 12.0 if right - dot.x() > dot.x() - left else max(dot.x() - 12.0 - wide, left)
        ground = QRectF(x, dot.y() - 8.0, min(wide, right - x), 16.0)
        painter.fillRect(ground, QColor(colours.PAPER))
        painter.setPen(QColor(colours.MUTED))
        words = metrics.elidedText(words, Qt.TextElideMode.ElideRight, int(ground.width()))
        painter.drawText(ground.adjusted(4, 0, 0, 0), Qt.AlignmentFlag.AlignVCenter, words)

    def _paint_beyond(self, painter: QPainter, dot: QPointF, suggested: int) -> None:
        """More components than there is room for: a point to the right, and how many."""
        corners = [dot + QPointF(*away) for away in ((-5.0, -5.0), (5.0, 0.0), (-5.0, 5.0))]
        painter.drawPolygon(corners)
        words = str(suggested)
        wide = painter.fontMetrics().horizontalAdvance(words) + 8.0
        ground = QRectF(dot.x() - 8.0 - wide, dot.y() - 8.0, wide, 16.0)
        painter.fillRect(ground, QColor(colours.PAPER))
        painter.setPen(QColor(colours.INK))
        painter.drawText(ground, Qt.AlignmentFlag.AlignCenter, words)

    def place_at(self, y: float) -> int | None:
        """The row at a height."""
        place = int((y - 4.0) // self._tall())
        return place if 0 <= place < len(self.rows) else None

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """The row under the pointer is lit, and its meaning told."""
        place = self.place_at(event.position().y())
        if place != self._row:
            self._light(place)

    def _light(self, place: int | None) -> None:
        self._row = place
        self.setToolTip("" if place is None else self.rows[place].meaning)
        self.pointed.emit(None if place is None else self.rows[place])
        self.update()

    def _areas(self) -> list[QRectF]:
        wide = float(self.width())
        return [QRectF(0.0, self.row_top(place), wide, self._tall()) for place in range(len(self.rows))]

    def leaveEvent(self, event: QEvent) -> None:
        """The pointer is gone."""
        self._row = None
        self.pointed.emit(None)
        self.update()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """A click keeps what the row suggests."""
        place = self.place_at(event.position().y())
        if place is not None:
            self._take(place)

    def _take(self, place: int) -> None:
        if self.rows[place].suggested:
            self.chosen.emit(self.rows[place].suggested)
