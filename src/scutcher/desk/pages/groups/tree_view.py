"""The tree of samples or lots, with a cut that is dragged."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, QRectF, Qt, Signal
from PySide6.QtGui import QColor, QMouseEvent, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from scutcher.charts import colours
from scutcher.charts.found_groups import group_name
from scutcher.core.arrays import Integers
from scutcher.core.groups.tree import Tree
from scutcher.core.words import shown
from scutcher.desk.guard import guarded
from scutcher.desk.painting.markers import marker
from scutcher.desk.painting.painters import painter_of
from scutcher.desk.widgets.item_keys import ItemKeys

LEFT, TOP, BOTTOM = 46.0, 12.0, 34.0
CLOSE = 9  # pixels from the cut at which it is taken


class TreeView(QWidget):
    """Leaves in their class colours; `cut_moved` and `cut_chosen` tell the number of groups."""

    cut_moved = Signal(int)
    cut_chosen = Signal(int)
    leaf_clicked = Signal(int)

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.tree: Tree | None = None
        self.codes: Integers = np.empty(0, dtype=np.intp)
        self.labels: Integers = np.empty(0, dtype=np.intp)
        self.names: tuple[str, ...] = ()
        self.count = 1
        self._dragging = False
        more = {Qt.Key.Key_Plus: lambda: self._cut(1), Qt.Key.Key_Minus: lambda: self._cut(-1)}
        self.keys = ItemKeys(self, "Tree", self._leaves, self._take, self._name_leaf, more)
        self.setMouseTracking(True)
        self.setMinimumHeight(120)

    def show_tree(self, tree: Tree | None, codes: Integers, labels: Integers, names: tuple[str, ...]) -> None:
        """Put another tree in, with the class and the group of each leaf."""
        self.tree, self.codes, self.labels, self.names = tree, codes, labels, names
        self.count = int(labels.max()) + 1 if len(labels) else 1
        self.update()

    # Where things are

    def x_of(self, place: float) -> float:
        """Of a leaf, by its place in the order."""
        count = 1 if self.tree is None else len(self.tree.order)
        return LEFT + (place + 0.5) / count * (self.width() - LEFT - 10.0)

    def y_of(self, height: float) -> float:
        """Of a height; roots of heights are drawn, so that low joints can be seen."""
        assert self.tree is not None
        top = float(self.tree.heights[-1]) or 1.0
        room = self.height() - TOP - BOTTOM
        return TOP + room * (1.0 - float(np.sqrt(max(height, 0.0) / top)))

    def height_at(self, y: float) -> float:
        """The height at a place."""
        assert self.tree is not None
        room = max(self.height() - TOP - BOTTOM, 1.0)
        share = min(max(1.0 - (y - TOP) / room, 0.0), 1.0)
        return float(self.tree.heights[-1]) * share**2

    def cut_height(self) -> float:
        """A height at which the tree falls into the groups of now."""
        assert self.tree is not None
        heights = self.tree.heights
        joint = len(heights) - self.count  # the highest that is below the cut
        low = float(heights[joint]) if joint >= 0 else 0.0
        high = float(heights[joint + 1]) if joint + 1 < len(heights) else 1.15 * float(heights[-1])
        return (low + high) / 2.0

    # Painting

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        """Shades of the groups, joints, leaves, the cut."""
        if self.tree is None or not len(self.tree.heights):
            return
        painter = painter_of(self, 11)
        self._paint_groups(painter, self.tree)
        self._paint_joints(painter, self.tree)
        self._paint_leaves(painter, self.tree)
        cut = max(self.y_of(self.cut_height()), 2.0)
        style = QPen(QColor(colours.INK), 1.2)
        style.setDashPattern([4.0, 3.0])
        painter.setPen(style)
        painter.drawLine(QPointF(LEFT - 8.0, cut), QPointF(self.width() - 10.0, cut))
        painter.fillRect(QRectF(LEFT - 14.0, cut - 4.0, 8.0, 8.0), QColor(colours.INK))
        painter.setPen(QColor(colours.MUTED))
        self.keys.outline(painter)
        painter.setPen(QColor(colours.MUTED))
        for height in (0.0, float(self.tree.heights[-1])):
            line = QRectF(0.0, self.y_of(height) - 7.0, LEFT - 16.0, 14.0)
            painter.drawText(
                line, Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter, shown(height, ".3g")
            )

    def _paint_groups(self, painter: QPainter, tree: Tree) -> None:
        ordered = self.labels[tree.order]
        starts = np.flatnonzero(np.diff(ordered, prepend=-1))
        for start, end in zip(starts, [*starts[1:], len(ordered)], strict=True):
            area = QRectF(
                self.x_of(start - 0.42),
                TOP,
                self.x_of(end - 0.58) - self.x_of(start - 0.42),
                self.height() - TOP - 16.0,
            )
            painter.fillRect(area, QColor(colours.LINEN))
            painter.setPen(QColor(colours.INK))
            words = group_name(int(ordered[start]))
            if area.width() > 40.0:
                words += f" · {int(end - start)}"
            under = QRectF(area.left() - 20.0, self.height() - 16.0, area.width() + 40.0, 15.0)
            painter.drawText(under, Qt.AlignmentFlag.AlignCenter, words)

    def _paint_joints(self, painter: QPainter, tree: Tree) -> None:
        count = len(tree.order)
        where = np.empty(2 * count - 1)
        where[tree.order] = [self.x_of(place) for place in range(count)]
        reach = np.zeros(2 * count - 1)
        painter.setPen(QPen(QColor(colours.INK), 1.0))
        for joint, ((one, two), height) in enumerate(
            zip(tree.pairs.tolist(), tree.heights.tolist(), strict=True)
        ):
            y = self.y_of(height)
            for branch in (one, two):
                painter.drawLine(
                    QPointF(where[branch], self.y_of(float(reach[branch]))), QPointF(where[branch], y)
                )
            painter.drawLine(QPointF(where[one], y), QPointF(where[two], y))
            where[count + joint] = (where[one] + where[two]) / 2.0
            reach[count + joint] = height

    def _paint_leaves(self, painter: QPainter, tree: Tree) -> None:
        size = min(8.0, 0.8 * (self.x_of(1.0) - self.x_of(0.0)))
        if size < 2.0:
            return
        painter.setPen(Qt.PenStyle.NoPen)
        for place, leaf in enumerate(tree.order.tolist()):
            painter.save()
            painter.translate(self.x_of(place), self.height() - BOTTOM + 9.0)
            painter.scale(size, size)
            painter.setBrush(QColor(colours.class_colour(int(self.codes[leaf]))))
            painter.drawPath(marker(colours.class_shape(int(self.codes[leaf]))))
            painter.restore()

    # From the person

    def leaf_at(self, place: QPointF) -> int | None:
        """The leaf under a place."""
        if self.tree is None or place.y() < self.height() - BOTTOM or place.x() < LEFT:
            return None
        at = int((place.x() - LEFT) / (self.width() - LEFT - 10.0) * len(self.tree.order))
        return int(self.tree.order[at]) if at < len(self.tree.order) else None

    def _leaves(self) -> list[QRectF]:
        """Where they stand, in their order."""
        count, top = 0 if self.tree is None else len(self.tree.order), self.height() - BOTTOM
        wide = max(self.x_of(1.0) - self.x_of(0.0), 3.0)
        return [QRectF(self.x_of(place) - wide / 2.0, top, wide, 18.0) for place in range(count)]

    def _take(self, place: int) -> None:
        assert self.tree is not None
        self.leaf_clicked.emit(int(self.tree.order[place]))

    def _name_leaf(self, place: int) -> None:
        assert self.tree is not None
        self.setToolTip(self.names[int(self.tree.order[place])])

    def _cut(self, more: int) -> None:
        """So many groups more."""
        if self.tree is not None and 1 <= self.count + more <= len(self.tree.order):
            self.count += more
            self.cut_chosen.emit(self.count)
            self.update()

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """A leaf is picked, or the cut taken."""
        if event.button() != Qt.MouseButton.LeftButton or self.tree is None:
            return
        leaf = self.leaf_at(event.position())
        if leaf is not None:
            self.leaf_clicked.emit(leaf)
            return
        self._dragging = True
        self._move(event.position().y())

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """The cut follows; else the leaf under the pointer is named."""
        if self._dragging:
            self._move(event.position().y())
            return
        leaf = self.leaf_at(event.position())
        self.setToolTip("Drag the line to cut the tree elsewhere" if leaf is None else self.names[leaf])

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """The cut stays."""
        if self._dragging:
            self._dragging = False
            self.cut_chosen.emit(self.count)

    def _move(self, y: float) -> None:
        assert self.tree is not None
        count = 1 + int((self.tree.heights > self.height_at(y)).sum())
        if count != self.count:
            self.count = count
            self.cut_moved.emit(count)
            self.update()
