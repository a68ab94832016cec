"""The finding at the top of the page: one sentence whose numbers can be clicked."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from typing import Any

from PySide6.QtCore import QEvent, QPointF, QRectF, Qt
from PySide6.QtGui import (
    QAbstractTextDocumentLayout,
    QContextMenuEvent,
    QFontMetricsF,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QPalette,
    QResizeEvent,
    QTextDocument,
    QTextLine,
)
from PySide6.QtWidgets import QApplication, QLabel, QLayout, QMenu, QVBoxLayout, QWidget

from scutcher.charts import colours
from scutcher.charts.words import Pieces
from scutcher.desk.context import Desk
from scutcher.desk.guard import guarded
from scutcher.desk.last_few import LastFew
from scutcher.desk.widgets.item_keys import ItemKeys
from scutcher.desk.words import escaped, tip

Say = Callable[[Pieces], None]

POINTS, PLAIN = Qt.CursorShape.PointingHandCursor, Qt.CursorShape.ArrowCursor
LEFT = Qt.MouseButton.LeftButton
LINES, TWO_LINES = 2, 32
REMEMBERED = 4
"""Sentences that stay set."""


class Finding(QLabel):
    """A piece that stands for samples is bold, and picks them when it is clicked.

    Each sentence is set once, also to see how much of it has room: a label would set it three times anew
    whenever it changes, which takes a seventh of a frame. So it draws its words itself.
    """

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self.setObjectName("finding")
        self.setTextFormat(Qt.TextFormat.RichText)
        self.setMinimumWidth(60)
        self.setWordWrap(True)
        self._desk = desk
        self._rows: list[tuple[int, ...]] = []
        self._words: list[str] = []
        self._pressed = ""
        self._shown: tuple[list[tuple[str, tuple[int, ...]]], list[str]] | None = None
        self._fitted: LastFew[tuple[str, QTextDocument]] = LastFew(REMEMBERED)
        self._paper = QTextDocument()
        self.setMouseTracking(True)
        self.keys = ItemKeys(self, "What is found", lambda: list(self._links().values()), self._take)
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
        self.setAccessibleName(self.sentence)
        said = self.sentence + "\nClick what is bold to pick those samples"
        self.setToolTip(tip("\n\n".join([said, *(["\n".join(more)] if more else [])])))

    def resizeEvent(self, event: QResizeEvent) -> None:
        """As much of the sentence as two lines hold."""
        super().resizeEvent(event)
        self._fit()

    def _fit(self) -> None:
        """The whole sentence, or its beginning and three dots; the tooltip has all of it."""
        key = self.contentsRect().width(), self.font().key(), self._marked(len(self.sentence))
        words, self._paper = self._fitted.get(key, self._most_letters)
        self.setText(words)

    def _most_letters(self) -> tuple[str, QTextDocument]:
        """As many as there is room for, as they are set."""
        whole = len(self.sentence)
        paper = self._set(whole)
        if self._has_room(paper):
            return self._marked(whole), paper
        fits, too_long = 0, whole
        while too_long - fits > 1:
            middle = (fits + too_long) // 2
            has_room = self._has_room(self._set(middle))
            fits, too_long = (middle, too_long) if has_room else (fits, middle)
        return self._marked(fits), self._set(fits)

    def _set(self, letters: int) -> QTextDocument:
        """The first letters, laid out."""
        paper = QTextDocument()
        paper.setDocumentMargin(0.0)
        paper.setDefaultFont(self.font())
        paper.setHtml(self._marked(letters))
        paper.setTextWidth(max(self.contentsRect().width(), 1))
        return paper

    def _has_room(self, paper: QTextDocument) -> bool:
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

    def _corner(self) -> QPointF:
        """Where the words begin: they stand in the middle of the height."""
        room = self.contentsRect()
        above = max((room.height() - self._paper.size().height()) / 2.0, 0.0)
        return QPointF(room.left(), room.top() + above)

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        """Draw the words as they are set."""
        painter, corner = QPainter(self), self._corner()
        context = QAbstractTextDocumentLayout.PaintContext()
        context.palette = self.palette()
        ink = context.palette.color(self.foregroundRole())
        context.palette.setColor(QPalette.ColorRole.Text, ink)
        painter.translate(corner)
        painter.setClipRect(self.contentsRect().translated(-corner.toPoint()))
        self._paper.documentLayout().draw(painter, context)
        painter.resetTransform()
        painter.setClipping(False)
        self.keys.outline(painter)

    def _links(self) -> dict[str, QRectF]:
        """Where what can be clicked is, as far as it stands on one line."""
        found: dict[str, QRectF] = {}
        block, corner = self._paper.begin(), self._corner()
        while block.isValid():
            above = self._paper.documentLayout().blockBoundingRect(block).topLeft() + corner
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

    def _take(self, number: int) -> None:
        self.linkActivated.emit(list(self._links())[number])

    def _link_at(self, place: QPointF) -> str:
        return self._paper.documentLayout().anchorAt(place - self._corner())

    def mouseMoveEvent(self, event: QMouseEvent) -> None:
        """A hand over what can be clicked."""
        self.setCursor(POINTS if self._link_at(event.position()) else PLAIN)

    def leaveEvent(self, event: QEvent) -> None:
        """The next one that comes from elsewhere begins with an arrow."""
        self.setCursor(PLAIN)
        super().leaveEvent(event)

    def mousePressEvent(self, event: QMouseEvent) -> None:
        """What lies under the pointer now is what a click means."""
        self._pressed = self._link_at(event.position()) if event.button() == LEFT else ""
        event.setAccepted(bool(self._pressed))

    def mouseReleaseEvent(self, event: QMouseEvent) -> None:
        """A click on what is bold."""
        pressed, self._pressed = self._pressed, ""
        if pressed and pressed == self._link_at(event.position()):
            self.linkActivated.emit(pressed)

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


def _across(line: QTextLine, place: int) -> float:
    """Where a letter begins."""
    found: Any = line.cursorToX(place)  # with the place again, though the stubs do not say so
    return float(found[0])


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
