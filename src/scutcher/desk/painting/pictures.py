"""Samples, means and loadings as pictures, where the variables form a grid."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QRectF, Qt
from PySide6.QtGui import QColor, QImage, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QWidget

from scutcher.charts import colours
from scutcher.charts.space import GridAxes, Landscape
from scutcher.core.words import shown
from scutcher.desk.guard import guarded


class LandscapesView(QWidget):
    """Pictures side by side, each with its own range of colours."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.pictures: list[Landscape] = []
        self.axes: GridAxes | None = None

    def show_pictures(self, pictures: list[Landscape], axes: GridAxes | None) -> None:
        """Put other pictures in."""
        self.pictures, self.axes = pictures, axes
        self.update()

    def numbers(self) -> tuple[list[str], list[list[object]]]:
        """A line for each point of the grid: its two places, and its value on each picture."""
        header = ["across", "up", *(picture.title for picture in self.pictures)]
        if self.axes is None:
            return header, []
        rows, columns = np.meshgrid(self.axes.rows, self.axes.columns, indexing="ij")
        values = (picture.values.ravel() for picture in self.pictures)
        return header, np.column_stack([columns.ravel(), rows.ravel(), *values]).tolist()

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        """Four in a row."""
        painter = QPainter(self)
        if not self.pictures:
            painter.setPen(QColor(colours.MUTED))
            words = (
                "Variables named excitation/emission (two numbers and a stroke) are shown as pictures here."
            )
            painter.drawText(self.rect(), Qt.AlignmentFlag.AlignCenter, words)
            return
        rows = -(-len(self.pictures) // 4)
        wide, tall = self.width() / 4, self.height() / rows
        for place, picture in enumerate(self.pictures):
            area = QRectF((place % 4) * wide + 8, (place // 4) * tall + 4, wide - 16, tall - 12)
            painter.setPen(QColor(colours.INK))
            painter.drawText(
                area.adjusted(0, 0, 0, -area.height() + 18), Qt.AlignmentFlag.AlignLeft, picture.title
            )
            frame = area.adjusted(0, 20, 0, -16)
            painter.drawImage(frame, image_of(picture))
            painter.setPen(QPen(QColor(colours.HAIRLINE), 1.0))
            painter.drawRect(frame)
            if self.axes is not None:
                painter.setPen(QColor(colours.MUTED))
                ends = f"{shown(self.axes.columns[0])} → {shown(self.axes.columns[-1])} across, "
                ends += f"{shown(self.axes.rows[0])} → {shown(self.axes.rows[-1])} up"
                under = QRectF(frame.left(), frame.bottom() + 1, frame.width(), 15)
                painter.drawText(under, Qt.AlignmentFlag.AlignLeft, ends)


def image_of(picture: Landscape) -> QImage:
    """A picture in the colours of its kind; the first row lowest."""
    values = picture.values[::-1]
    known = np.nan_to_num(values)
    if picture.signed:
        size = float(np.abs(known).max()) or 1.0
        shares = (known / size + 1.0) / 2.0
        table = colours.signed_map()
    else:
        low, span = float(known.min()), float(np.ptp(known)) or 1.0
        shares = (known - low) / span
        table = colours.unsigned_map()
    pixels = np.array(table, dtype=np.uint8)[np.clip(shares * 255, 0, 255).astype(int)]
    pixels = np.ascontiguousarray(pixels)
    height, width = values.shape
    return QImage(pixels.data, width, height, 3 * width, QImage.Format.Format_RGB888).copy()
