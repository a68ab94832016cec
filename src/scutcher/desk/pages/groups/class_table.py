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
from scutcher.desk.pages.groups.class_bars import bars_room, paint_bars
from scutcher.desk.pages.groups.class_tree import ClassTree
from scutcher.desk.painting.mark_finding import WAYS
from scutcher.desk.painting.markers import marker
from scutcher.desk.painting.painters import lettered, painter_of

HEAD, LABELS, TREE, FOOT = 22.0, 132.0, 150.0, 18.0
WIDE, NARROW, TALL, FLAT = 96.0, 35.0, 37.0, 24.0
BESIDE_MARK, LETTERS = 15.0, 5
"""Where a name begins over its column, and letters of it that say too little."""
BESIDE_NAME, BESIDE_CELLS, LETTER = 26.0, 10.0, 11
"""Pixels around a name at the left, from the cells to the tree, and of letters."""
FEW = 6  # classes whose cells have words under their figures, where there is room
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
        self._needs, self._beside = (LABELS, LABELS), TREE
        self._dragging = False
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)
        self.setMouseTracking(True)

    def show_square(self, square: ClassSquare | None) -> None:
        """Put another table in; the chosen cell stays where it has the same classes."""
        self.square = square
        if square is None or (self.at is not None and max(self.at) >= len(square.codes)):
            self.at = None
        self.tree.show_tree(None if square is None else square.tree)
        self._measure()
        self._place_tree()
        self.setMinimumSize(self.sizeHint().width(), int(HEAD + self._count * FLAT + self._foot))
        self.update()

    def _measure(self) -> None:
        """What the names need, with and without the small words under them, and what stands at the right."""
        self._needs, self._beside = (LABELS, LABELS), TREE
        if self.square is not None:
            metrics = QFontMetrics(lettered(self.font(), LETTER))
            names, sizes = (
                max((metrics.horizontalAdvance(word) for word in words), default=0)
                for words in (self.square.names, self.square.sizes)
            )
            self._needs = min(LABELS, BESIDE_NAME + names), min(LABELS, BESIDE_NAME + max(names, sizes))
            if self.square.bars:
                self._beside = BESIDE_CELLS + bars_room(metrics, self.square)

    @property
    def _labels(self) -> float:
        """Pixels of the names: of all words where there is room."""
        least, most = self._needs
        return min(max(self.width() - self._beside - self._count * NARROW, least), most)

    @property
    def _foot(self) -> float:
        """Pixels under the cells, for the scale of the tree."""
        return 0.0 if self.square is not None and self.square.bars else FOOT

    def numbers(self) -> tuple[list[str], list[list[object]]]:
        """The table behind it."""
        return ([], []) if self.square is None else self.square.rows()

    def sizeHint(self) -> QSize:
        """Room for every class."""
        count = self._count
        wide = self._needs[0] + count * NARROW + (self._beside if count > 1 else 0.0)
        least = TALL if count <= FEW else FLAT
        return QSize(int(wide), int(HEAD + count * least + self._foot))

    @property
    def _count(self) -> int:
        return 0 if self.square is None else len(self.square.codes)

    def _tall(self) -> float:
        room = (self.height() - HEAD - self._foot) / max(self._count, 1)
        return min(max(FLAT, room), 46.0) if self._count <= FEW else FLAT

    @property
    def _is_roomy(self) -> bool:
        """Whether there are small words under the names and the figures."""
        return self._count <= FEW and self._tall() >= TALL

    def _wide(self) -> float:
        room = self.width() - self._labels - self._beside
        return min(max(room / max(self._count, 1), NARROW), WIDE)

    def cell_rect(self, row: int, column: int) -> QRectF:
        """Where a cell is."""
        wide, tall = self._wide(), self._tall()
        return QRectF(self._labels + column * wide, HEAD + row * tall, wide - 2.0, tall - 2.0)

    def place_at(self, place: QPointF) -> tuple[int, int] | None:
        """The cell under a place."""
        if self.square is None:
            return None
        row, column = (place.y() - HEAD) / self._tall(), (place.x() - self._labels) / self._wide()
        count = len(self.square.codes)
        inside = 0 <= row < count and 0 <= column < count
        return (int(row), int(column)) if inside else None

    def groups_at_cut(self) -> int:
        """How many groups the cut of the tree makes."""
        return self.tree.groups(self._count)

    def resizeEvent(self, event: QResizeEvent) -> None:
        """The tree stands where the cells end."""
        super().resizeEvent(event)
        self._place_tree()

    def _place_tree(self) -> None:
        self.tree.left = self._labels + self._count * self._wide() + BESIDE_CELLS
        self.tree.room = self.width() - self.tree.left

    # Painting

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        """Names, cells, tree."""
        if self.square is None:
            return
        painter = painter_of(self, LETTER)
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
        rows = [self.cell_rect(row, 0) for row in range(self._count)]
        if self.square.bars:
            paint_bars(painter, self.square, rows, self.tree.left, self.tree.room)
        elif self.square.tree is not None and self._count > 1:
            self.tree.draw(painter, rows, HEAD, self.square.unit)

    def _paint_names(self, painter: QPainter, square: ClassSquare) -> None:
        metrics = QFontMetrics(painter.font())
        heads, roomy = self.heads(metrics), self._is_roomy
        for place, (code, name) in enumerate(zip(square.codes.tolist(), square.names, strict=True)):
            cell, head = self.cell_rect(place, 0), self.cell_rect(0, place)
            self._paint_mark(painter, code, 10.0, cell.top() + (12.0 if roomy else cell.height() / 2.0))
            self._paint_mark(painter, code, head.left() + 7.0 if heads else head.center().x(), HEAD / 2.0)
            painter.setPen(QColor(colours.INK))
            line = QRectF(20.0, cell.top(), self._labels - BESIDE_NAME, 22.0 if roomy else cell.height())
            elided = metrics.elidedText(name, Qt.TextElideMode.ElideMiddle, int(line.width()))
            painter.drawText(line, Qt.AlignmentFlag.AlignVCenter, elided)
            if heads:
                over = QRectF(head.left() + BESIDE_MARK, 0.0, head.width() - BESIDE_MARK, HEAD)
                painter.drawText(over, Qt.AlignmentFlag.AlignVCenter, heads[place])
            if roomy:
                painter.setPen(QColor(colours.MUTED))
                under = QRectF(20.0, cell.top() + 19.0, self._labels - BESIDE_NAME, 18.0)
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
