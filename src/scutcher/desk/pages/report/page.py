"""The Report page: the choices at the left, the pages of paper as they would be written at the right."""

from __future__ import annotations

from collections.abc import Iterator
from pathlib import Path
from typing import TYPE_CHECKING

from PySide6.QtCore import QTimer
from PySide6.QtGui import QHideEvent, QImage, QPixmap, QResizeEvent
from PySide6.QtWidgets import (
    QFileDialog,
    QFrame,
    QHBoxLayout,
    QLabel,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from scutcher.charts.page_findings.report import finding
from scutcher.core.errors import InputError
from scutcher.core.progress import Watch
from scutcher.core.words import count_of
from scutcher.desk.actions.outcome import ask_path, then_say, write_behind
from scutcher.desk.context import Desk, follow
from scutcher.desk.deferred import Soon
from scutcher.desk.pages.declaration import PageView
from scutcher.desk.pages.report.choices import PAPERS, ReportChoices
from scutcher.desk.pages.report.work import Made, ReportWork
from scutcher.desk.widgets.finding import Finding, under
from scutcher.desk.widgets.note import Note
from scutcher.files.signing import can_sign, sign
from scutcher.study.work import Priority

if TYPE_CHECKING:
    from PySide6.QtPrintSupport import QPrinter

SIDE, GAP = 300, 14
WIDEST = 760
"""Pixels of a page of paper."""

AFTER = 350
"""Milliseconds without another choice before the pages are made."""

SHOWN = {"evaluation", "state", "checked", "newcomers", "trouble"}


class Sheet(QLabel):
    """A page of paper."""

    def __init__(self, picture: QPixmap, number: int, of: int) -> None:
        super().__init__()
        self.setObjectName("sheet")
        self.setPixmap(picture)
        self.setFixedSize(picture.deviceIndependentSize().toSize())
        self.setAccessibleName(f"Page {number} of {of}")


class ReportPage(PageView):
    """What leaves the desk."""

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.desk = desk
        self.sheets: list[Sheet] = []
        self._width = 0

    def build(self) -> Iterator[None]:
        """Choices at the left, the pages of paper at the right."""
        desk = self.desk
        self.finding = Finding(desk)
        self.choices = ReportChoices(desk)
        self.choices.chosen.connect(self.go_to)
        self.work = ReportWork(desk, self._arrived)
        yield
        self._make_preview()
        self._arrange()
        self._later = QTimer(self)
        self._later.setSingleShot(True)
        self._later.setInterval(AFTER)
        self._later.timeout.connect(self._ask)
        self.redraw = Soon(self.refresh, self)
        follow(self, desk.live, lambda changed: self.redraw() if changed & SHOWN else None)
        follow(self, desk.study, lambda changed: self.redraw())

    def _make_preview(self) -> None:
        self.paper = QWidget()
        self.paper.setObjectName("desk")
        self.column = QVBoxLayout(self.paper)
        self.column.setContentsMargins(GAP, GAP, GAP, GAP)
        self.column.setSpacing(GAP)
        self.column.addStretch(1)
        self.sheets_area = QScrollArea()
        self.sheets_area.setFrameShape(QFrame.Shape.NoFrame)
        self.sheets_area.setWidgetResizable(True)
        self.sheets_area.setWidget(self.paper)
        self.note = Note("The pages are being made…")
        self.note.setObjectName("quiet")

    def _arrange(self) -> None:
        write, self.sign_button = QPushButton("Write…"), QPushButton("Sign…")
        self.print_button = QPushButton("Print…")
        self.print_button.setToolTip("Print the pages as they are shown  (Ctrl+P)")
        self.print_button.clicked.connect(self.ask_printer)
        write.setObjectName("primary")
        write.setToolTip("Write it as HTML or PDF, by the file's ending")
        write.clicked.connect(self.ask_path)
        self.sign_button.setToolTip("Write it and sign it with your SSH key: the signature lies beside it")
        self.sign_button.clicked.connect(self.ask_key)
        self.sign_button.setEnabled(can_sign())
        tools = QHBoxLayout()
        buttons = (self.print_button, self.sign_button, write)
        for widget, share in ((self.note, 1), *((button, 0) for button in buttons)):
            tools.addWidget(widget, share)
        right = QVBoxLayout()
        right.setSpacing(5)
        right.addLayout(tools)
        right.addWidget(self.sheets_area, 1)
        self.choices.setFixedWidth(SIDE)
        columns = QHBoxLayout()
        columns.setSpacing(7)
        columns.addWidget(self.choices)
        columns.addLayout(right, 1)
        under(self.finding, columns, self)

    # The pages

    def refresh(self) -> None:
        """Show what is chosen, and make the pages soon."""
        made = self.work.made
        self.choices.refresh(None if made is None else made.document)
        self.note.setText("The pages are being made…")
        self._later.start()

    def _ask(self) -> None:
        if not self.isVisible():
            return
        if self.desk.live.checking is not None:
            self.note.setText("The evidence is being computed; the pages follow…")
            self._later.start()
        else:
            self._width = self._room()
            self.work.ask(round(self._width * self.devicePixelRatioF()))

    def _room(self) -> int:
        return max(200, min(self.sheets_area.viewport().width() - 2 * GAP - 12, WIDEST))

    def _arrived(self) -> None:
        made, trouble = self.work.made, self.work.trouble
        if trouble is not None or made is None:
            self.note.setText("" if trouble is None else f"{trouble.problem} {trouble.remedy}")
            return
        pages, paper = len(made.pages), PAPERS[made.document.paper]
        self.note.setText(f"{count_of(pages, 'page')} of {paper}, as they would be written")
        self.finding.show_pieces(finding(made.report, len(made.document.sections), len(made.pages)))
        self.choices.refresh(made.document)
        self._show_pages()

    def _show_pages(self) -> None:
        made = self.work.made
        assert made is not None
        at = self.sheets_area.verticalScrollBar().value()
        for sheet in self.sheets:
            sheet.setParent(None)
            sheet.deleteLater()
        self.sheets = []
        for place, pixels in enumerate(made.pages):
            height, width = pixels.shape[:2]
            image = QImage(pixels.data, width, height, 3 * width, QImage.Format.Format_RGB888).copy()
            image.setDevicePixelRatio(width / self._width)
            sheet = Sheet(QPixmap.fromImage(image), place + 1, len(made.pages))
            self.column.insertWidget(place, sheet)
            self.sheets.append(sheet)
        bar = self.sheets_area.verticalScrollBar()
        QTimer.singleShot(0, bar, lambda: bar.setValue(at))

    def go_to(self, key: str) -> None:
        """Scroll to the page on which a section begins."""
        made = self.work.made
        title = next((one.title for one in made.document.sections if one.key == key), "") if made else ""
        page = made.begins.get(title) if made is not None else None
        if page is not None and page < len(self.sheets):
            self.sheets_area.verticalScrollBar().setValue(max(0, self.sheets[page].y() - GAP))

    def resizeEvent(self, event: QResizeEvent) -> None:
        """Paper of another width is made anew, once the hand has let go."""
        super().resizeEvent(event)
        if self._width and self._room() != self._width:
            self._later.start()

    def hideEvent(self, event: QHideEvent) -> None:
        """Nobody looks: nothing is made."""
        super().hideEvent(event)
        self._later.stop()
        if self.work.busy:
            self.work.stop()
            self.redraw()

    # What leaves

    def ask_path(self) -> None:
        """Ask where it goes."""
        name = f"{self.desk.study.state.name}.pdf"
        ask_path(self, "Write the report", name, "PDF (*.pdf);;HTML (*.html)", self.write)

    def ask_key(self) -> None:
        """Ask where it goes, and which key signs it."""
        name = f"{self.desk.study.state.name}.pdf"
        ask_path(self, "Write and sign the report", name, "PDF (*.pdf);;HTML (*.html)", self._ask_key)

    def _ask_key(self, path: Path) -> None:
        start = str(Path.home() / ".ssh")
        key, _ = QFileDialog.getOpenFileName(self, "Your key (private, or .pub of one in the agent)", start)
        if key:
            self.write(path, Path(key))

    def ask_printer(self) -> None:
        """Ask which printer, and print the pages as they are shown."""
        made = self._made_or_say()
        if made is None:
            return
        from scutcher.desk.pages.report.printing import chosen_by_hand, printer_for

        printer = printer_for(made.document.paper)
        if chosen_by_hand(printer, len(made.pages), self):
            self.print_on(printer)

    def print_on(self, printer: QPrinter) -> None:
        """Print the pages as they are shown, behind."""
        made = self._made_or_say()
        if made is None:
            return
        pdf, pages = made.pdf, len(made.pages)

        def work(watch: Watch) -> int:
            from scutcher.desk.pages.report.printing import print_pages

            return print_pages(pdf, pages, printer, watch)

        done = InputError("The report is at the printer.", "")
        self.desk.live.ask(
            f"print {id(printer)}", None, work, then_say(self.desk, done), priority=Priority.OUT
        )

    def _made_or_say(self) -> Made | None:
        if self.work.made is None:
            self.desk.say(self.work.trouble or InputError("The pages are not made yet.", "Wait a moment."))
        return self.work.made

    def write(self, path: Path, key: Path | None = None) -> None:
        """Write the report as it is shown, behind; with a key, sign it."""
        made = self._made_or_say()
        if made is None:
            return
        document = made.document

        def work(watch: Watch) -> None:
            from scutcher.charts.report.writing import write_document

            write_document(document, path, watch)
            if key is not None:
                sign(path, key)

        signed = "" if key is None else f", its signature in {path.name}.sig"
        write_behind(self.desk, "The report is", path, work, signed)
