"""The search field: finds any sample, channel, page or action by typing."""

from __future__ import annotations

import heapq
from collections.abc import Callable, Iterable

from PySide6.QtCore import QEvent, QPoint, QSize, Qt
from PySide6.QtGui import QFocusEvent, QKeyEvent, QResizeEvent
from PySide6.QtWidgets import QHBoxLayout, QLineEdit, QListWidget, QListWidgetItem, QWidget

from scutcher.desk.actions.action import Entry
from scutcher.desk.words import Words

SHOWN = 12
ROW = 26  # pixels


def rank(query: str, words: str, also: str = "") -> int | None:
    """How well words answer a query: 0 is best; None where they do not.

    The whole of the words, or one of the other names in full, is best; then a beginning, the beginning of a
    later word, anywhere inside, and last all parts of the query in whatever order.
    """
    wanted, text = query.lower().strip(), words.lower()
    names = [name.strip() for name in also.lower().split(",") if name.strip()]
    if wanted and (wanted == text or wanted in names):
        return 0
    if text.startswith(wanted):
        return 1
    if f" {wanted}" in text or any(name.startswith(wanted) for name in names):
        return 2
    if wanted in text or any(wanted in name for name in names):
        return 3
    parts, all_words = wanted.split(), " ".join((text, *names))
    if len(parts) > 1 and all(f" {part}" in f" {all_words}" for part in parts):
        return 4
    return None


def best(query: str, entries: Iterable[Entry], most: int = SHOWN) -> list[Entry]:
    """The entries that answer a query, best first; among equals in their order."""
    ranked = [(rank(query, entry.words, entry.also), place, entry) for place, entry in enumerate(entries)]
    found = sorted((r, place) for r, place, _ in ranked if r is not None)
    return [ranked[place][2] for _, place in found[:most]]


def few(query: str, names: Iterable[str], most: int = SHOWN) -> list[int]:
    """The places of the names that answer a query best, in their order: of very many within a frame or two.

    What `rank` and `best` give of them, without an entry for each.
    """
    wanted, lowered = query.lower().strip(), [name.lower() for name in names]
    ranked = [
        (0 if name == wanted else 1 if name.startswith(wanted) else 2 if f" {wanted}" in name else 3, place)
        for place, name in enumerate(lowered)
        if wanted in name
    ]
    parts = wanted.split()
    if len(parts) > 1 and len(ranked) < most:
        there = {place for _, place in ranked}
        ranked += [
            (4, place)
            for place, name in enumerate(lowered)
            if place not in there and all(f" {part}" in f" {name}" for part in parts)
        ]
    return sorted(place for _, place in heapq.nsmallest(most, ranked))


INVITATIONS = ("Find a sample, channel or action   Ctrl+K", "Find anything   Ctrl+K", "Find")
BESIDE = 12
"""Pixels at each side of the words in the field."""


class SearchField(QLineEdit):
    """Type to find; the answers drop down under it, Return runs the first, Esc leaves."""

    def __init__(self, entries: Callable[[str], Iterable[Entry]], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._entries = entries
        self._found: list[Entry] = []
        self.setPlaceholderText(INVITATIONS[0])
        self.setToolTip("Find any sample, channel, page or action by typing (Ctrl+K)")
        self.setAccessibleName("Find")
        self.setMinimumWidth(150)
        self.setMaximumWidth(252)
        self.list: QListWidget | None = None
        self.textEdited.connect(lambda text: self.look_up())

    def resizeEvent(self, event: QResizeEvent) -> None:
        """The invitation that there is room for."""
        super().resizeEvent(event)
        room = self.width() - 2 * BESIDE
        fitting = (words for words in INVITATIONS if self.fontMetrics().horizontalAdvance(words) <= room)
        self.setPlaceholderText(next(fitting, INVITATIONS[-1]))

    def start(self) -> None:
        """Take the keyboard and show what there is."""
        self.setFocus()
        self.selectAll()
        self.look_up()

    def look_up(self) -> None:
        """Show the answers to what is typed."""
        if self.list is None:
            self.list = QListWidget(self.window())
            self.list.setFocusPolicy(Qt.FocusPolicy.NoFocus)
            self.list.itemClicked.connect(lambda item: self._run(self.list.row(item)))
        self._found = best(self.text(), self._entries(self.text()))
        self.list.clear()
        for entry in self._found:
            item = QListWidgetItem()
            item.setSizeHint(QSize(0, ROW))
            self.list.addItem(item)
            self.list.setItemWidget(item, _row(entry))
        if not self._found:
            self.list.addItem(f"Nothing here is called {self.text().strip()[:30]!r}")
        self.list.setCurrentRow(0)
        corner = self.mapTo(self.window(), QPoint(0, self.height() + 3))
        wide = 450
        self.list.setGeometry(
            corner.x() + self.width() - wide, corner.y(), wide, ROW * max(len(self._found), 1) + 6
        )
        self.list.show()
        self.list.raise_()

    def leave(self) -> None:
        """Put the list away and give the keyboard back."""
        if self.list is not None:
            self.list.hide()
        self.clear()
        self.clearFocus()

    def keyPressEvent(self, event: QKeyEvent) -> None:
        """Arrows choose, Return runs, Esc leaves."""
        key = event.key()
        if key == Qt.Key.Key_Escape:
            self.leave()
        elif key in (Qt.Key.Key_Return, Qt.Key.Key_Enter):
            self._run(self.list.currentRow() if self.list is not None else 0)
        elif key in (Qt.Key.Key_Down, Qt.Key.Key_Up) and self.list is not None and self._found:
            step = 1 if key == Qt.Key.Key_Down else -1
            self.list.setCurrentRow((self.list.currentRow() + step) % len(self._found))
        else:
            super().keyPressEvent(event)

    def focusInEvent(self, event: QFocusEvent) -> None:
        """A click into the field shows the list as well."""
        super().focusInEvent(event)
        if event.reason() == Qt.FocusReason.MouseFocusReason:
            self.look_up()

    def focusOutEvent(self, event: QFocusEvent) -> None:
        """The list goes with the keyboard."""
        super().focusOutEvent(event)
        if self.list is not None:
            self.list.hide()

    def event(self, event: QEvent) -> bool:
        """Keys typed here are text, never shortcuts of the window."""
        if event.type() == QEvent.Type.ShortcutOverride and isinstance(event, QKeyEvent):
            plain = not event.modifiers() & Qt.KeyboardModifier.ControlModifier
            if plain:
                event.accept()
                return True
        return super().event(event)

    def _run(self, row: int) -> None:
        if 0 <= row < len(self._found):
            entry = self._found[row]
            self.leave()
            entry.run()


def _row(entry: Entry) -> QWidget:
    """Words at the left, kind and key at the right."""
    row = QWidget()
    layout = QHBoxLayout(row)
    layout.setContentsMargins(10, 0, 10, 0)
    side = Words(f"{entry.key}   {entry.kind}".strip())
    side.setObjectName("quiet")
    layout.addWidget(Words(entry.words), 1)
    layout.addWidget(side)
    return row


class Finder:
    """Gathers what can be found from several givers, asked anew at every look-up."""

    def __init__(self) -> None:
        self._givers: list[Callable[[str], Iterable[Entry]]] = []

    def add(self, giver: Callable[[], Iterable[Entry]]) -> None:
        """Let somebody give all entries, whatever is looked for."""
        self._givers.append(lambda query: giver())

    def add_many(self, giver: Callable[[str], Iterable[Entry]]) -> None:
        """Let somebody who has very many give those that answer a query best."""
        self._givers.append(giver)

    def entries(self, query: str = "") -> list[Entry]:
        """Everything that can be found now, of what there are very many the first that answer a query."""
        return [entry for giver in self._givers for entry in giver(query)]
