"""The finding at the top of the page: one sentence whose numbers can be clicked."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PySide6.QtCore import Qt
from PySide6.QtGui import QContextMenuEvent, QFontMetricsF, QResizeEvent, QTextDocument
from PySide6.QtWidgets import QApplication, QLabel, QLayout, QMenu, QVBoxLayout, QWidget

from scutcher.charts import colours
from scutcher.charts.words import Pieces
from scutcher.desk.context import Desk
from scutcher.desk.last_few import LastFew
from scutcher.desk.words import escaped, tip

Say = Callable[[Pieces], None]

LINES, TWO_LINES = 2, 32
REMEMBERED = 4
"""Sentences of which it is kept how much has room."""


class Finding(QLabel):
    """A piece that stands for samples is bold, and picks them when it is clicked."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self.setObjectName("finding")
        self.setTextFormat(Qt.TextFormat.RichText)
        self.setMinimumWidth(60)
        self.setWordWrap(True)
        self._desk = desk
        self._rows: list[tuple[int, ...]] = []
        self._words: list[str] = []
        self._shown: tuple[list[tuple[str, tuple[int, ...]]], list[str]] | None = None
        self._fitted: LastFew[int] = LastFew(REMEMBERED)
        self.linkActivated.connect(self._on_link)

    @property
    def sentence(self) -> str:
        """What it says, without markup."""
        return "".join(self._words)

    def show_pieces(self, pieces: Pieces, more: Sequence[str] = ()) -> None:
        """Put another sentence in; its tooltip says more."""
        shown = list(pieces), list(more)
        if shown == self._shown:
            return
        self._shown = shown
        self._rows, self._words = [rows for _, rows in pieces], [text for text, _ in pieces]
        self._fit()
        said = self.sentence + "\nClick what is bold to pick those samples"
        self.setToolTip(tip("\n\n".join([said, *(["\n".join(more)] if more else [])])))

    def resizeEvent(self, event: QResizeEvent) -> None:
        """As much of the sentence as two lines hold."""
        super().resizeEvent(event)
        self._fit()

    def _fit(self) -> None:
        """The whole sentence, or its beginning and three dots; the tooltip has all of it."""
        self.setText(self._marked(self._fitting()))
        # laid out now: while it is painted it would ask to be painted again
        self.heightForWidth(self.width())

    def _fitting(self) -> int:
        """How many letters of the sentence there is room for; of the last ones seen it is known."""
        key = self.contentsRect().width(), self._marked(len(self.sentence))
        return self._fitted.get(key, self._most_letters)

    def _most_letters(self) -> int:
        whole = len(self.sentence)
        if self._fits(whole):
            return whole
        fits, too_long = 0, whole
        while too_long - fits > 1:
            middle = (fits + too_long) // 2
            fits, too_long = (middle, too_long) if self._fits(middle) else (fits, middle)
        return fits

    def _fits(self, letters: int) -> bool:
        paper = QTextDocument()
        paper.setDocumentMargin(0.0)
        paper.setDefaultFont(self.font())
        paper.setHtml(self._marked(letters))
        paper.setTextWidth(max(self.contentsRect().width(), 1))
        return paper.size().height() <= LINES * QFontMetricsF(self.font()).lineSpacing() + 1.0

    def _marked(self, letters: int) -> str:
        """The first letters as marked up text, with three dots where there are more."""
        link = '<a href="{}" style="color:{};text-decoration:none"><b>{}</b></a>'
        found, left = [], letters
        for place, (text, rows) in enumerate(zip(self._words, self._rows, strict=True)):
            part = escaped(text[:left])
            found.append(link.format(place, colours.INK, part) if rows and part else part)
            left = max(left - len(text), 0)
        return "".join(found) + (" …" if letters < len(self.sentence) else "")

    def contextMenuEvent(self, event: QContextMenuEvent) -> None:
        """The sentence can be copied."""
        menu = QMenu(self)
        menu.setAttribute(Qt.WidgetAttribute.WA_DeleteOnClose)
        menu.addAction("Copy the sentence").triggered.connect(self.copy)
        menu.popup(event.globalPos())

    def copy(self) -> None:
        """Put the sentence on the clipboard."""
        QApplication.clipboard().setText(self.sentence)

    def _on_link(self, place: str) -> None:
        self._desk.selection.pick(self._rows[int(place)])


class Line(QWidget):
    """Holds the finding in a place of its own: whatever it says, the page is not laid out anew."""

    def __init__(self, finding: Finding) -> None:
        super().__init__()
        self._finding = finding
        finding.setParent(self)
        self.setFixedHeight(TWO_LINES)

    def resizeEvent(self, event: QResizeEvent) -> None:
        """As wide as the page."""
        super().resizeEvent(event)
        self._finding.setGeometry(self.rect())


def under(finding: Finding, body: QLayout, page: QWidget) -> None:
    """Lay a page out: its finding at the top, the rest below."""
    finding.setContentsMargins(4, 0, 4, 0)
    layout = QVBoxLayout(page)
    layout.setContentsMargins(8, 5, 8, 7)
    layout.setSpacing(5)
    layout.addWidget(Line(finding))
    layout.addLayout(body, 1)
