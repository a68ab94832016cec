"""The tree beside a table of classes: where its heights are, the cut that is dragged over it, its picture."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QPointF, QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPen

from scutcher.charts import colours
from scutcher.core.groups.tree import Tree
from scutcher.core.words import shown

WIDEST, NARROWEST = 260.0, 60.0
"""Pixels of the tree."""


class ClassTree:
    """Of one table; the table tells where its left end and its rows are.

    Attributes
    ----------
    tree : Tree or None
    cut : float or None
        The height at which it is cut.
    left, room : float
        Where height 0 is, and pixels from there to the end of the table.
    """

    def __init__(self) -> None:
        self.tree: Tree | None = None
        self.cut: float | None = None
        self.left = self.room = 0.0

    @property
    def top(self) -> float:
        """The height of the tree."""
        return float(self.tree.heights[-1]) if self.tree is not None and len(self.tree.heights) else 0.0

    def show_tree(self, tree: Tree | None) -> None:
        """Another tree; a cut above it is none."""
        self.tree = tree
        if self.cut is not None and self.cut > self.top:
            self.cut = None

    def x_of(self, height: float) -> float:
        """Where a height is."""
        return self.left + height / (self.top or 1.0) * max(min(self.room - 12.0, WIDEST), NARROWEST)

    def move_cut(self, x: float) -> None:
        """Cut it at a place."""
        unit = self.x_of(1.0) - self.x_of(0.0)
        self.cut = min(max((x - self.x_of(0.0)) / unit, 0.0), self.top)

    def groups(self, count: int) -> int:
        """How many groups the cut makes of so many classes."""
        if self.cut is None or self.tree is None:
            return count
        return 1 + int((self.tree.heights > self.cut).sum())

    def draw(self, painter: QPainter, rows: Sequence[QRectF], head: float, unit: str) -> None:
        """Branches, their scale, and the cut.

        Parameters
        ----------
        rows : where the row of each class is
        head : height of the line of names above them
        unit : of the heights
        """
        assert self.tree is not None
        where, reach = [row.center().y() for row in rows], [0.0] * len(rows)
        painter.setPen(QPen(QColor(colours.INK), 1.3))
        for (one, two), height in zip(self.tree.pairs.tolist(), self.tree.heights.tolist(), strict=True):
            x = self.x_of(height)
            for branch in (one, two):
                painter.drawLine(QPointF(self.x_of(reach[branch]), where[branch]), QPointF(x, where[branch]))
            painter.drawLine(QPointF(x, where[one]), QPointF(x, where[two]))
            where.append((where[one] + where[two]) / 2.0)
            reach.append(height)
        self._paint_scale(painter, rows[-1].bottom() + 3.0, head, unit)
        if self.cut is not None:
            self._paint_cut(painter, self.cut, rows[-1].bottom() + 3.0, head, len(rows))

    def _paint_scale(self, painter: QPainter, bottom: float, head: float, unit: str) -> None:
        painter.setPen(QPen(QColor(colours.HAIRLINE), 1.0))
        painter.drawLine(QPointF(self.x_of(0.0), bottom), QPointF(self.x_of(self.top), bottom))
        painter.setPen(QColor(colours.MUTED))
        for height in (0.0, self.top):
            under = QRectF(self.x_of(height) - 40.0, bottom + 1.0, 80.0, 14.0)
            painter.drawText(under, Qt.AlignmentFlag.AlignCenter, shown(height, ".3g"))
        painter.drawText(QRectF(self.x_of(0.0), 0.0, 150.0, head), Qt.AlignmentFlag.AlignVCenter, unit)

    def _paint_cut(self, painter: QPainter, cut: float, bottom: float, head: float, count: int) -> None:
        style, x = QPen(QColor(colours.INK), 1.2), self.x_of(cut)
        style.setDashPattern([4.0, 3.0])
        painter.setPen(style)
        painter.drawLine(QPointF(x, head - 2.0), QPointF(x, bottom))
        painter.drawText(QRectF(x + 4.0, head - 6.0, 80.0, 14.0), f"{self.groups(count)} groups")
