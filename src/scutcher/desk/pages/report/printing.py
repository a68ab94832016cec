"""The pages of a report on a printer: asked for in the window, painted behind."""

from __future__ import annotations

from PySide6.QtCore import QRectF
from PySide6.QtGui import QImage, QPageLayout, QPageSize, QPainter
from PySide6.QtPrintSupport import QPrintDialog, QPrinter
from PySide6.QtWidgets import QDialog, QWidget

from scutcher.charts.report.paper import page_by_page
from scutcher.core.errors import InputError
from scutcher.core.progress import Watch, tell

FINEST = 220
"""Dots per inch of a page: finer takes memory and cannot be seen on paper at arm's length."""

SIZES = {"a4": QPageSize.PageSizeId.A4, "letter": QPageSize.PageSizeId.Letter}

REFUSED = InputError("The printer did not take the pages.", "See whether it is on, or write a PDF instead.")


def printer_for(paper: str) -> QPrinter:
    """A printer on which a page lies as it was made: paper is "a4" or "letter"; margins are the report's."""
    printer = QPrinter(QPrinter.PrinterMode.HighResolution)
    printer.setPageSize(QPageSize(SIZES[paper]))
    printer.setFullPage(True)
    printer.setPageOrientation(QPageLayout.Orientation.Portrait)
    return printer


def chosen_by_hand(printer: QPrinter, pages: int, parent: QWidget) -> bool:
    """Ask which printer, which pages and how many times; whether it is wanted at all."""
    printer.setFromTo(1, pages)
    dialog = QPrintDialog(printer, parent)
    dialog.setWindowTitle("Print the report")
    dialog.setMinMax(1, pages)
    dialog.setOption(QPrintDialog.PrintDialogOption.PrintPageRange)
    return dialog.exec() == QDialog.DialogCode.Accepted


def print_pages(pdf: bytes, pages: int, printer: QPrinter, watch: Watch | None = None) -> int:
    """Paint the pages of a PDF on a printer, those of its range where it has one; how many were painted."""
    first, last = printer.fromPage() or 1, printer.toPage() or pages
    if printer.printRange() != QPrinter.PrintRange.PageRange:
        first, last = 1, pages
    area = QRectF(printer.paperRect(QPrinter.Unit.DevicePixel))
    width = round(printer.paperRect(QPrinter.Unit.Inch).width() * min(FINEST, printer.resolution()))
    painter = QPainter()
    if not painter.begin(printer):
        raise REFUSED
    done = 0
    try:
        for number, pixels in enumerate(page_by_page(pdf, width), start=1):
            if not first <= number <= last:
                continue
            if done and not printer.newPage():
                raise REFUSED
            height, across = pixels.shape[:2]
            image = QImage(pixels.data, across, height, 3 * across, QImage.Format.Format_RGB888)
            painter.drawImage(_fitted(area, across / height), image)
            done += 1
            tell(watch, number / pages)
    finally:
        painter.end()
    return done


def _fitted(area: QRectF, shape: float) -> QRectF:
    """The largest rectangle of a shape (width by height) in the middle of an area."""
    width = min(area.width(), area.height() * shape)
    height = width / shape
    left = area.left() + (area.width() - width) / 2.0
    return QRectF(left, area.top() + (area.height() - height) / 2.0, width, height)
