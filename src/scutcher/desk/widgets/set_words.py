"""Words with links, laid out once: they are drawn, and asked where their links are.

A label sets its words three times anew whenever they change, which takes a seventh of a frame.
"""

from __future__ import annotations

from typing import Any

from PySide6.QtCore import QPointF, QRectF
from PySide6.QtGui import (
    QAbstractTextDocumentLayout,
    QColor,
    QFont,
    QPainter,
    QPalette,
    QTextDocument,
    QTextLine,
)


class SetWords:
    """All places are from the left upper corner of the words, in pixels.

    Parameters
    ----------
    marked : str
        With markup of our own, in which foreign words are escaped.
    width : pixels that a line has
    """

    def __init__(self, marked: str, font: QFont, width: int) -> None:
        self.marked = marked
        self._paper = QTextDocument()
        self._paper.setDocumentMargin(0.0)
        self._paper.setDefaultFont(font)
        self._paper.setHtml(marked)
        self._paper.setTextWidth(max(width, 1))

    @property
    def height(self) -> float:
        """Of all lines."""
        return self._paper.size().height()

    def draw(self, painter: QPainter, palette: QPalette, ink: QColor) -> None:
        """Draw them from where the painter's own corner is."""
        context = QAbstractTextDocumentLayout.PaintContext()
        palette.setColor(QPalette.ColorRole.Text, ink)
        context.palette = palette
        self._paper.documentLayout().draw(painter, context)

    def link_at(self, place: QPointF) -> str:
        """What the link at a place leads to; "" where there is none."""
        return self._paper.documentLayout().anchorAt(place)

    def links(self) -> dict[str, QRectF]:
        """Where each link is, as far as it stands on one line."""
        found: dict[str, QRectF] = {}
        block = self._paper.begin()
        while block.isValid():
            above = self._paper.documentLayout().blockBoundingRect(block).topLeft()
            pieces = block.begin()
            while not pieces.atEnd():
                piece = pieces.fragment()
                if piece.charFormat().isAnchor():
                    start = piece.position() - block.position()
                    line = block.layout().lineForTextPosition(start)
                    end = min(start + piece.length(), line.textStart() + line.textLength())
                    left, right = _across(line, start), _across(line, end)
                    place = QRectF(left, line.y(), right - left, line.height())
                    found.setdefault(piece.charFormat().anchorHref(), place.translated(above))
                pieces += 1
            block = block.next()
        return found


def _across(line: QTextLine, place: int) -> float:
    """Where a letter begins."""
    found: Any = line.cursorToX(place)  # with the place again, though the stubs do not say so
    return float(found[0])
