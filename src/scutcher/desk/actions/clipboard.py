"""Tables on the clipboard: as tabs for a spreadsheet, and as HTML for a text."""

from __future__ import annotations

from collections.abc import Sequence

from PySide6.QtCore import QMimeData
from PySide6.QtGui import QImage
from PySide6.QtWidgets import QApplication

from scutcher.core.words import localised
from scutcher.desk.words import escaped
from scutcher.files.csv_text import cell_text


def copy_table(rows: Sequence[Sequence[object]]) -> None:
    """Put a table on the clipboard, its first row the header."""
    texts = [[_text(cell) for cell in row] for row in rows]
    data = QMimeData()
    data.setText("\n".join("\t".join(row) for row in texts))
    data.setHtml(html_table(texts))
    QApplication.clipboard().setMimeData(data)


def copy_forms(png: bytes, svg: bytes, pdf: bytes) -> None:
    """Put a picture on the clipboard in several forms; who pastes takes the one that it can use."""
    data = QMimeData()
    data.setImageData(QImage.fromData(png))
    data.setData("image/svg+xml", svg)
    data.setData("application/pdf", pdf)
    QApplication.clipboard().setMimeData(data)


def _text(cell: object) -> str:
    """A number with the decimal mark of this desktop: whoever takes it from there reads it by that."""
    return localised(cell_text(cell)) if isinstance(cell, float) else cell_text(cell)


def html_table(texts: Sequence[Sequence[str]]) -> str:
    """A table as HTML; whatever the cells hold is text."""
    made = []
    for place, row in enumerate(texts):
        tag = "th" if place == 0 else "td"
        made.append("<tr>" + "".join(f"<{tag}>{escaped(cell)}</{tag}>" for cell in row) + "</tr>")
    return f"<table>{''.join(made)}</table>"
