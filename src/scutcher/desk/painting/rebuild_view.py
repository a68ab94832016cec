"""Samples rebuilt from rising numbers of components: a cell for each, measured and rebuilt in it."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QColor, QPainter, QPainterPath, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from scutcher.charts import colours
from scutcher.charts.rebuilds import RebuildGrid, value_range
from scutcher.charts.space import Landscape
from scutcher.core.arrays import Floats
from scutcher.core.words import shown
from scutcher.desk.guard import guarded
from scutcher.desk.painting.painters import line_path
from scutcher.desk.painting.pictures import image_of

HEAD, SIDE = 24.0, 90.0


class RebuildView(QWidget):
    """Rows share one scale; the column of the components that are kept is framed."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.grid: RebuildGrid | None = None

    def show_grid(self, grid: RebuildGrid) -> None:
        """Put other samples in."""
        self.grid = grid
        self.update()

    def numbers(self) -> tuple[list[str], list[list[object]]]:
        """A line for each variable: samples as measured and as rebuilt, in the unit of the treated data."""
        if self.grid is None:
            return [], []
        grid, header, columns = self.grid, ["variable"], [self.grid.x]
        for cells in grid.rows:
            header.append(f"{cells[0].name} measured")
            header += [f"{cells[0].name} by {k}" for k in grid.steps]
            columns += [values + grid.centre for values in (cells[0].measured, *(c.rebuilt for c in cells))]
        return header, np.column_stack(columns).tolist()

    def cell(self, row: int, column: int) -> QRectF:
        """Where a cell is."""
        assert self.grid is not None
        wide = (self.width() - SIDE - 8.0) / len(self.grid.steps)
        tall = (self.height() - HEAD - 8.0) / len(self.grid.rows)
        return QRectF(SIDE + column * wide + 4, HEAD + row * tall + 4, wide - 8, tall - 8)

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        """Headings, names, cells."""
        if self.grid is None:
            return
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.Antialiasing)
        grid, middle = self.grid, Qt.AlignmentFlag.AlignCenter
        for column, k in enumerate(grid.steps):
            area = self.cell(0, column)
            painter.setPen(QColor(colours.INK if k == grid.kept else colours.MUTED))
            words = f"{k} component{'s' * (k > 1)}" + (", kept" if k == grid.kept else "")
            painter.drawText(QRectF(area.left(), 2, area.width(), HEAD), middle, words)
        for row, cells in enumerate(grid.rows):
            span = value_range(grid, row)
            painter.setPen(QColor(colours.INK))
            name = QRectF(8, self.cell(row, 0).top(), SIDE - 12, self.cell(row, 0).height())
            words = painter.fontMetrics().elidedText(
                cells[0].name, Qt.TextElideMode.ElideRight, int(name.width())
            )
            painter.drawText(name, Qt.AlignmentFlag.AlignVCenter, words)
            for column, _ in enumerate(cells):
                self._paint_cell(painter, row, column, span)

    def _paint_cell(self, painter: QPainter, row: int, column: int, span: tuple[float, float]) -> None:
        assert self.grid is not None
        grid, cell, area = self.grid, self.grid.rows[row][column], self.cell(row, column)
        kept = grid.steps[column] == grid.kept
        painter.setPen(QPen(QColor(colours.ACCENT if kept else colours.HAIRLINE), 1.0))
        painter.setBrush(QColor(colours.PAPER))
        painter.drawRect(area)
        inside = area.adjusted(4, 4, -4, -20)
        if grid.axes is not None:
            painter.drawImage(
                inside, image_of(Landscape("", grid.axes.picture(cell.rebuilt + grid.centre), False))
            )
        else:
            zero = path_of(grid.x[[0, -1]], np.zeros(2), inside, span)
            painter.strokePath(zero, QPen(QColor(colours.HAIRLINE), 1.0))
            for values, colour, width in (
                (cell.measured, colours.FADED, 3.0),
                (cell.rebuilt, colours.ACCENT, 1.3),
            ):
                painter.strokePath(path_of(grid.x, values, inside, span), QPen(QColor(colour), width))
        painter.setPen(QColor(colours.MUTED))
        under = QRectF(area.left() + 5, area.bottom() - 18, area.width() - 10, 16)
        painter.drawText(under, Qt.AlignmentFlag.AlignRight, f"{shown(100 * cell.share, '.1f')} % rebuilt")


def path_of(x: Floats, values: Floats, area: QRectF, span: tuple[float, float]) -> QPainterPath:
    """A line through values in an area; a gap breaks it."""
    across = area.left() + (x - x.min()) / (np.ptp(x) or 1.0) * area.width()
    down = area.bottom() - (values - span[0]) / ((span[1] - span[0]) or 1.0) * area.height()
    order = np.argsort(x, kind="stable")
    return line_path(across[order], down[order])
