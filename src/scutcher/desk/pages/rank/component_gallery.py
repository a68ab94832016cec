"""The component gallery: each component with its loading, its scores by class, and its share of noise."""

from __future__ import annotations

import time
from functools import partial

import numpy as np
from PySide6.QtCore import QPointF, QRectF, QSize, Qt, QTimer, Signal
from PySide6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent, QPen, QPixmap
from PySide6.QtWidgets import QFrame, QScrollArea, QWidget

from scutcher.charts import colours
from scutcher.charts.rank import Portrait
from scutcher.core.words import shown
from scutcher.desk.guard import guarded
from scutcher.desk.last_few import LastFew
from scutcher.desk.painting.line_raster import column_runs
from scutcher.desk.painting.painters import line_path
from scutcher.desk.widgets.item_keys import ItemKeys

TALL, NUMBER, NOISE, GAP, DOT = 52.0, 34.0, 54.0, 8.0, 3.8
THICK, MANY = 1.1, 3
"""Pixels that a line is thick, and places for each of them above which it is drawn as an area."""

SLOW, FRAME = 2_000, 0.012
"""Samples from which rows that are not known yet are drawn in several turns, and seconds of a turn."""

CARDS = 64
"""Pictures of rows that are kept."""


class Portraits(QWidget):
    """Rows from the first component down; a click shows the component on the planes."""

    clicked = Signal(int)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.pictures: list[Portrait] = []
        self._cards: LastFew[QPixmap] = LastFew(CARDS)
        self.kept = 0
        self.keys = ItemKeys(self, "Components", self._areas, self._take, self._come_to)
        self.setToolTip(
            "Left: loading. Right: scores, one row per class. Far right: share of the loading that is white "
            "along the axis. Click: show it on the score plane."
        )

    def show_portraits(self, pictures: list[Portrait], kept: int) -> None:
        """Put other components in."""
        self.pictures, self.kept = pictures, kept
        self.setMinimumHeight(int(TALL * len(pictures)) + 4)
        self.update()

    def sizeHint(self) -> QSize:
        """As tall as its rows."""
        return QSize(300, int(TALL * len(self.pictures)) + 4)

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        """The rows that are visible; of very many samples those that a frame has time for, then others."""
        painter, end, made = QPainter(self), time.perf_counter() + FRAME, False
        for place, picture in enumerate(self.pictures):
            area = self._area(place)
            if area.toRect().intersects(event.rect()):
                kept, size = picture.component < self.kept, area.size().toSize()
                key = picture, kept, size, self.devicePixelRatioF()
                is_new = key not in self._cards
                if is_new and made and len(picture.scores) > SLOW and time.perf_counter() > end:
                    QTimer.singleShot(0, self, self.update)
                    break
                made |= is_new
                card = self._cards.get(key, partial(self._card, picture, kept, size))
                painter.drawPixmap(area.topLeft(), card)
        self.keys.outline(painter)

    def _card(self, picture: Portrait, kept: bool, size: QSize) -> QPixmap:
        """A row by itself: it is drawn again only where something of it is other."""
        ratio = self.devicePixelRatioF()
        card = QPixmap(size * ratio)
        card.setDevicePixelRatio(ratio)
        card.fill(Qt.GlobalColor.transparent)
        painter = QPainter(card)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        painter.setFont(self.font())
        self._paint(painter, picture, QRectF(0.0, 0.0, size.width(), size.height()), kept)
        painter.end()
        return card

    def _area(self, place: int) -> QRectF:
        return QRectF(6.0, place * TALL + 2.0, self.width() - 12.0, TALL - 5.0)

    def _areas(self) -> list[QRectF]:
        return [self._area(place) for place in range(len(self.pictures))]

    def _take(self, place: int) -> None:
        self.clicked.emit(self.pictures[place].component)

    def _come_to(self, place: int) -> None:
        """The row of the keys is in sight."""
        above = self.parentWidget()
        frame = None if above is None else above.parentWidget()
        if isinstance(frame, QScrollArea):
            frame.ensureVisible(0, int((place + 0.5) * TALL), 0, int(TALL))

    def _paint(self, painter: QPainter, picture: Portrait, area: QRectF, kept: bool) -> None:
        ink = QColor(colours.INK if kept else colours.MUTED)
        number = QRectF(area.left(), area.top(), NUMBER, area.height())
        bold = painter.font()
        bold.setBold(True)
        bold.setPixelSize(13)
        painter.setPen(ink)
        small = painter.font()
        painter.setFont(bold)
        painter.drawText(
            number.adjusted(0, 4, 0, -18), Qt.AlignmentFlag.AlignCenter, str(picture.component + 1)
        )
        small.setPixelSize(10)
        painter.setFont(small)
        painter.drawText(
            number.adjusted(-3, 22, 3, 0),
            Qt.AlignmentFlag.AlignHCenter,
            f"{shown(100 * picture.share, '.1f')} %",
        )
        wide = (area.width() - NUMBER - NOISE - 2 * GAP) / 2.0
        left = QRectF(area.left() + NUMBER + GAP, area.top(), wide, area.height())
        right = QRectF(left.right() + GAP, area.top(), wide, area.height())
        painter.setPen(QPen(QColor(colours.HAIRLINE), 1.0))
        painter.setBrush(Qt.BrushStyle.NoBrush)
        for frame in (left, right):
            painter.drawRect(frame)
        self._paint_loading(painter, picture, left.adjusted(2, 3, -2, -3), kept)
        self._paint_scores(painter, picture, right.adjusted(4, 3, -4, -3), kept)
        painter.setPen(ink)
        words = "" if picture.noise is None else f"{100 * picture.noise:.0f} %\nnoise"
        painter.drawText(
            QRectF(right.right() + 4, area.top(), NOISE - 6, area.height()),
            Qt.AlignmentFlag.AlignCenter,
            words,
        )

    def _paint_loading(self, painter: QPainter, picture: Portrait, area: QRectF, kept: bool) -> None:
        y, x = picture.loading, picture.places
        low, high = min(float(y.min()), 0.0), max(float(y.max()), 0.0)
        span = (high - low) or 1.0
        zero = area.bottom() - (0.0 - low) / span * area.height()
        painter.setPen(QPen(QColor(colours.HAIRLINE), 1.0))
        painter.drawLine(QPointF(area.left(), zero), QPointF(area.right(), zero))
        across = area.left() + (x - x.min()) / (np.ptp(x) or 1.0) * area.width()
        down = area.bottom() - (y - low) / span * area.height()
        colour = QColor(colours.ACCENT if kept else colours.FADED)
        if len(x) <= 24:
            for px, py in zip(across.tolist(), down.tolist(), strict=True):
                painter.fillRect(QRectF(px - 2.0, min(py, zero), 4.0, abs(py - zero)), colour)
            return
        wide = int(area.width())
        if len(x) <= MANY * wide:
            painter.strokePath(line_path(across, down), QPen(colour, THICK))
            return
        edges = column_runs(across, down[np.newaxis], area.left(), area.right(), wide)
        top, bottom = edges[0][0] - THICK / 2.0, edges[1][0] + THICK / 2.0
        columns = area.left() + (np.arange(wide) + 0.5) * (area.width() / wide)
        around = line_path(np.r_[columns, columns[::-1]], np.r_[top, bottom[::-1]])
        painter.fillPath(around, colour)  # a line that goes up and down in each pixel is an area

    def _paint_scores(self, painter: QPainter, picture: Portrait, area: QRectF, kept: bool) -> None:
        lanes = picture.lanes
        continuous = any(code >= colours.CONTINUOUS for code, _ in lanes)
        for place, (code, shares) in enumerate(lanes):
            colour = QColor(colours.class_colour(code))
            colour.setAlpha(190 if kept else 110)
            painter.setPen(QPen(colour, DOT, Qt.PenStyle.SolidLine, Qt.PenCapStyle.RoundCap))
            lane = 0.5 if continuous else (place + 0.5) / len(lanes)
            y = area.top() + lane * area.height()
            painter.drawPoints([QPointF(x, y) for x in (area.left() + shares * area.width()).tolist()])

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """A click chooses the component."""
        place = int(event.position().y() // TALL)
        if 0 <= place < len(self.pictures):
            self._take(place)


def scrolled(widget: QWidget) -> QScrollArea:
    """A widget in a frame that scrolls up and down only."""
    area = QScrollArea()
    area.setWidgetResizable(True)
    area.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
    area.setFrameShape(QFrame.Shape.NoFrame)
    area.setWidget(widget)
    return area
