"""The finding at the top of the page: one sentence whose numbers can be clicked."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PySide6.QtCore import QEvent, QPointF, QRectF, Qt
from PySide6.QtGui import (
    QContextMenuEvent,
    QFontMetricsF,
    QMouseEvent,
    QPainter,
    QPaintEvent,
    QResizeEvent,
)
from PySide6.QtWidgets import QApplication, QLabel, QLayout, QMenu, QVBoxLayout, QWidget

from scutcher.charts import colours
from scutcher.charts.words import Pieces
from scutcher.desk.context import Desk
from scutcher.desk.guard import guarded
from scutcher.desk.last_few import LastFew
from scutcher.desk.widgets.item_keys import ItemKeys
from scutcher.desk.widgets.set_words import SetWords
from scutcher.desk.words import escaped, tip

Say = Callable[[Pieces], None]

POINTS, PLAIN = Qt.CursorShape.PointingHandCursor, Qt.CursorShape.ArrowCursor
LEFT = Qt.MouseButton.LeftButton
LINES, TWO_LINES = 2, 32
REMEMBERED = 4
"""Sentences that stay set."""


class Finding(QLabel):
    """A piece that stands for samples is bold, and picks them when it is clicked.

    Each sentence is laid out once, also to see how much of it has room; so it draws its words itself.
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
        self._fitted: LastFew[SetWords] = LastFew(REMEMBERED)
        self._set = self._first(0)
        self.setMouseTracking(True)
        self.keys = ItemKeys(self, "What is found", self._areas, self._take)
        self.setFocusPolicy(Qt.FocusPolicy.NoFocus)  # until something can be picked
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
        self.keys.place = None
        self.setAccessibleName(self.sentence)
        picks = any(self._rows)
        self.setFocusPolicy(Qt.FocusPolicy.TabFocus if picks else Qt.FocusPolicy.NoFocus)
        said = self.sentence + ("\nClick what is bold to pick those samples" if picks else "")
        self.setToolTip(tip("\n\n".join([said, *(["\n".join(more)] if more else [])])))

    def resizeEvent(self, event: QResizeEvent) -> None:
        """As much of the sentence as two lines hold."""
        super().resizeEvent(event)
        self._fit()

    def changeEvent(self, event: QEvent) -> None:
        """With other letters there is room for others."""
        super().changeEvent(event)
        if event.type() == QEvent.Type.FontChange:
            self._fit()

    def _fit(self) -> None:
        """The whole sentence, or its beginning and three dots; the tooltip has all of it."""
        key = self.contentsRect().width(), self.font().key(), self._marked(len(self.sentence))
        self._set = self._fitted.get(key, self._most_letters)
        self.setText(self._set.marked)

    def _most_letters(self) -> SetWords:
        """As many as there is room for."""
        whole = self._first(len(self.sentence))
        if self._has_room(whole):
            return whole
        fits, too_long = 0, len(self.sentence)
        while too_long - fits > 1:
            middle = (fits + too_long) // 2
            has_room = self._has_room(self._first(middle))
            fits, too_long = (middle, too_long) if has_room else (fits, middle)
        return self._first(fits)

    def _first(self, letters: int) -> SetWords:
        return SetWords(self._marked(letters), self.font(), self.contentsRect().width())

    def _has_room(self, words: SetWords) -> bool:
        return words.height <= LINES * QFontMetricsF(self.font()).lineSpacing() + 1.0

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
        return QPointF(room.left(), room.top() + max((room.height() - self._set.height) / 2.0, 0.0))

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        """Draw the words as they are set."""
        painter, palette = QPainter(self), self.palette()
        painter.setClipRect(self.contentsRect())
        painter.translate(self._corner())
        self._set.draw(painter, palette, palette.color(self.foregroundRole()))
        painter.resetTransform()
        painter.setClipping(False)
        self.keys.outline(painter)

    def _areas(self) -> list[QRectF]:
        return [place.translated(self._corner()) for place in self._set.links().values()]

    def _take(self, number: int) -> None:
        self.linkActivated.emit(list(self._set.links())[number])

    def _link_at(self, place: QPointF) -> str:
        return self._set.link_at(place - self._corner())

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
