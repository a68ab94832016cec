"""The table of classes on screen: cells to click, and the tree beside it with its cut."""

from __future__ import annotations

from PySide6.QtCore import QPointF, QRectF, QSize, Qt, Signal
from PySide6.QtGui import (
    QColor,
    QFontMetrics,
    QKeyEvent,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPen,
    QResizeEvent,
)
from PySide6.QtWidgets import QWidget

from scutcher.charts import colours
from scutcher.charts.class_table import Cell, ClassSquare
from scutcher.desk.guard import guarded
from scutcher.desk.pages.groups.class_tree import ClassTree
from scutcher.desk.painting.mark_finding import WAYS
from scutcher.desk.painting.markers import marker
from scutcher.desk.painting.painters import painter_of

HEAD, LABELS, TREE, FOOT = 22.0, 132.0, 150.0, 18.0
WIDE, NARROW, TALL, FLAT = 96.0, 40.0, 37.0, 24.0
BESIDE_MARK, LETTERS = 15.0, 5
"""Where a name begins over its column, and letters of it that say too little."""
FEW = 6  # classes whose cells have words under their figures, where there is room
BARS = (
    ("ACCENT", "PAPER"),
    ("ALARM", "PAPER"),
    ("OCHRE", "PAPER"),
    ("CHIP", "INK"),
)
"""Own class only, another only, several, none: names of the colours of ground and ink."""

KINDS = {
    "apart": "ACCENT",
    "mixed": "ALARM",
    "right": "CHIP",
    "own": "ACCENT",
    "none": "PAPER",
}


class ClassTable(QWidget):
    """Click a cell: `chosen` tells the codes of its row and column. Arrow keys move, Enter chooses."""

    chosen = Signal(int, int)
    cut_moved = Signal(int)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setAccessibleName("Classes against each other")
        self.square: ClassSquare | None = None
        self.at: tuple[int, int] | None = None
        self.tree = ClassTree()
        self._dragging = False
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)

    def show_square(self, square: ClassSquare | None) -> None:
        """Put another table in; the chosen cell stays where it has the same classes."""
        self.square = square
        if square is None or (self.at is not None and max(self.at) >= len(square.codes)):
            self.at = None
        self.tree.show_tree(None if square is None else square.tree)
        self._place_tree()
        self.setMinimumSize(self.sizeHint().width(), int(HEAD + self._count * FLAT + FOOT))
        self.update()

    def numbers(self) -> tuple[list[str], list[list[object]]]:
        """The table behind it."""
        return ([], []) if self.square is None else self.square.rows()

    def sizeHint(self) -> QSize:
        """Room for every class."""
        count = self._count
        wide = LABELS + count * NARROW + (TREE if count > 1 else 0.0)
        least = TALL if count <= FEW else FLAT
        return QSize(int(wide), int(HEAD + count * least + FOOT))

    @property
    def _count(self) -> int:
        return 0 if self.square is None else len(self.square.codes)

    def _tall(self) -> float:
        room = (self.height() - HEAD - FOOT) / max(self._count, 1)
        return min(max(FLAT, room), 46.0) if self._count <= FEW else FLAT

    @property
    def _is_roomy(self) -> bool:
        """Whether there are small words under the names and the figures."""
        return self._count <= FEW and self._tall() >= TALL

    def _wide(self) -> float:
        count = 1 if self.square is None else len(self.square.codes)
        return min(max((self.width() - LABELS - TREE) / count, NARROW), WIDE)

    def cell_rect(self, row: int, column: int) -> QRectF:
        """Where a cell is."""
        wide, tall = self._wide(), self._tall()
        return QRectF(LABELS + column * wide, HEAD + row * tall, wide - 2.0, tall - 2.0)

    def place_at(self, place: QPointF) -> tuple[int, int] | None:
        """The cell under a place."""
        if self.square is None:
            return None
        row, column = (place.y() - HEAD) / self._tall(), (place.x() - LABELS) / self._wide()
        count = len(self.square.codes)
        inside = 0 <= row < count and 0 <= column < count
        return (int(row), int(column)) if inside else None

    def groups_at_cut(self) -> int:
        """How many groups the cut of the tree makes."""
        return self.tree.groups(0 if self.square is None else len(self.square.codes))

    def resizeEvent(self, event: QResizeEvent) -> None:
        """The tree stands where the cells end."""
        super().resizeEvent(event)
        self._place_tree()

    def _place_tree(self) -> None:
        count = 0 if self.square is None else len(self.square.codes)
        self.tree.left = LABELS + count * self._wide() + 10.0
        self.tree.room = self.width() - self.tree.left

    # Painting

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        """Names, cells, tree."""
        if self.square is None:
            return
        painter = painter_of(self, 11)
        self._paint_names(painter, self.square)
        for row, cells in enumerate(self.square.cells):
            for column, cell in enumerate(cells):
                self._paint_cell(painter, cell, self.cell_rect(row, column))
        if self.at is not None:
            for row, column in {self.at, self.at[::-1]}:
                style = QPen(QColor(colours.INK), 2.0 if (row, column) == self.at else 1.0)
                if (row, column) != self.at:
                    style.setDashPattern([3.0, 2.0])
                painter.setPen(style)
                painter.setBrush(Qt.BrushStyle.NoBrush)
                painter.drawRect(self.cell_rect(row, column).adjusted(0.5, 0.5, -0.5, -0.5))
        if self.square.bars:
            self._paint_bars(painter, self.square)
        elif self.square.tree is not None and len(self.square.codes) > 1:
            rows = [self.cell_rect(row, 0) for row in range(len(self.square.codes))]
            self.tree.draw(painter, rows, HEAD, self.square.unit)

    def _paint_bars(self, painter: QPainter, square: ClassSquare) -> None:
        """Where the samples of each class belong: own only, another only, several, none."""
        left = self.tree.left
        room = max(min(self.tree.room - 12.0, 220.0), 60.0)
        painter.setPen(QColor(colours.MUTED))
        painter.drawText(QRectF(left, 0.0, 200.0, HEAD), Qt.AlignmentFlag.AlignVCenter, square.unit)
        for row, parts in enumerate(square.bars):
            cell, x, total = self.cell_rect(row, 0), left, sum(parts) or 1
            for count, (ground, ink) in zip(parts, BARS, strict=True):
                wide = room * count / total
                area = QRectF(x, cell.center().y() - 8.0, max(wide - 1.0, 0.0), 16.0)
                if count:
                    painter.fillRect(area, QColor(getattr(colours, ground)))
                    painter.setPen(QColor(getattr(colours, ink)))
                    if wide > 16.0:
                        painter.drawText(area, Qt.AlignmentFlag.AlignCenter, str(count))
                x += wide

    def _paint_names(self, painter: QPainter, square: ClassSquare) -> None:
        metrics = QFontMetrics(painter.font())
        heads, roomy = self.heads(metrics), self._is_roomy
        for place, (code, name) in enumerate(zip(square.codes.tolist(), square.names, strict=True)):
            cell, head = self.cell_rect(place, 0), self.cell_rect(0, place)
            self._paint_mark(painter, code, 10.0, cell.top() + (12.0 if roomy else cell.height() / 2.0))
            self._paint_mark(painter, code, head.left() + 7.0 if heads else head.center().x(), HEAD / 2.0)
            painter.setPen(QColor(colours.INK))
            line = QRectF(20.0, cell.top(), LABELS - 26.0, 22.0 if roomy else cell.height())
            elided = metrics.elidedText(name, Qt.TextElideMode.ElideMiddle, int(line.width()))
            painter.drawText(line, Qt.AlignmentFlag.AlignVCenter, elided)
            if heads:
                over = QRectF(head.left() + BESIDE_MARK, 0.0, head.width() - BESIDE_MARK, HEAD)
                painter.drawText(over, Qt.AlignmentFlag.AlignVCenter, heads[place])
            if roomy:
                painter.setPen(QColor(colours.MUTED))
                under = QRectF(20.0, cell.top() + 19.0, LABELS - 26.0, 18.0)
                painter.drawText(under, Qt.AlignmentFlag.AlignVCenter, square.sizes[place])

    def heads(self, metrics: QFontMetrics) -> list[str]:
        """The names over the columns; none where one would be cut until useless: marks stand there alone."""
        names = () if self.square is None else self.square.names
        room = int(self._wide() - 2.0 - BESIDE_MARK)
        cut = [metrics.elidedText(name, Qt.TextElideMode.ElideRight, room) for name in names]
        told = all(short == name or len(short) > LETTERS for short, name in zip(cut, names, strict=True))
        return cut if told else []

    def _paint_mark(self, painter: QPainter, code: int, x: float, y: float) -> None:
        painter.save()
        painter.translate(x, y)
        painter.scale(9.0, 9.0)
        painter.setPen(Qt.PenStyle.NoPen)
        painter.setBrush(QColor(colours.class_colour(code)))
        painter.drawPath(marker(colours.class_shape(code)))
        painter.restore()

    def _paint_cell(self, painter: QPainter, cell: Cell, area: QRectF) -> None:
        ground = QColor(getattr(colours, KINDS[cell.kind]))
        ground.setAlphaF(0.5 if cell.kind == "right" else 0.06 + 0.38 * min(max(cell.shade, 0.0), 1.0))
        painter.fillRect(area, ground)
        painter.setPen(QPen(QColor(colours.HAIRLINE), 1.0))
        painter.drawRect(area)
        font = painter.font()
        font.setBold(cell.kind == "right" or (cell.kind == "mixed" and cell.shade > 0.0))
        painter.setFont(font)
        painter.setPen(QColor(colours.INK if cell.shade > 0.0 else colours.MUTED))
        roomy = self._is_roomy
        figure = area.adjusted(0, 3, 0, -area.height() / 2.0) if roomy else area
        middle = Qt.AlignmentFlag.AlignCenter
        wide = painter.fontMetrics().horizontalAdvance(cell.figure) <= area.width() - 2.0
        painter.drawText(figure, middle, cell.figure if wide else cell.figure.split(" ")[0])
        font.setBold(False)
        painter.setFont(font)
        if roomy and painter.fontMetrics().horizontalAdvance(cell.words) <= area.width() - 2.0:
            painter.setPen(QColor(colours.MUTED))
            painter.drawText(area.adjusted(0, area.height() / 2.0, 0, -3), middle, cell.words)

    # From the person

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """A cell is chosen, or the cut of the tree is taken."""
        if event.button() != Qt.MouseButton.LeftButton or self.square is None:
            return
        if event.position().x() >= self.tree.left and self.tree.top > 0.0:
            self._dragging = True
            self._move_cut(event.position().x())
            return
        self._choose(self.place_at(event.position()))

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """The cut follows; else the cell under the pointer is told."""
        if self._dragging:
            self._move_cut(event.position().x())
            return
        self.setToolTip(self._told_at(event.position()))

    def _told_at(self, place: QPointF) -> str:
        """What stands at a place, in words: a cell, or whose column it is."""
        cell, under = self.place_at(place), self.place_at(QPointF(place.x(), HEAD))
        if cell is not None:
            return self.words_of(*cell)
        if self.square is None or under is None or place.y() >= HEAD:
            return ""
        return self.square.names[under[1]]

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """The cut stays."""
        self._dragging = False

    def words_of(self, row: int, column: int) -> str:
        """What a cell says, in words."""
        assert self.square is not None
        cell = self.square.cells[row][column]
        one, two = self.square.names[row], self.square.names[column]
        if self.square.bars:
            return f"{cell.figure} samples of {one} are accepted by the model of {two}"
        if row == column:
            return f"{one}: {cell.figure} held-out samples right"
        return f"{one} and {two}: {cell.figure} {cell.words}"

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Arrows move the chosen cell."""
        step = WAYS.get(Qt.Key(event.key()))
        if step is None or self.square is None:
            super().keyPressEvent(event)
            return
        last = len(self.square.codes) - 1
        row, column = self.at or (0, 0)
        across, down = step
        self._choose((min(max(row + down, 0), last), min(max(column + across, 0), last)))

    def _choose(self, place: tuple[int, int] | None) -> None:
        if place is None or self.square is None:
            return
        self.at = place
        self.update()
        self.chosen.emit(int(self.square.codes[place[0]]), int(self.square.codes[place[1]]))

    def _move_cut(self, x: float) -> None:
        self.tree.move_cut(x)
        self.cut_moved.emit(self.groups_at_cut())
        self.update()
