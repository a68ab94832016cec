"""The Groups page: the finding at its top, and the ways to look: labels, groups found, class models."""

from __future__ import annotations

from collections.abc import Sequence
from html import escape

from PySide6.QtCore import Qt
from PySide6.QtWidgets import (
    QButtonGroup,
    QHBoxLayout,
    QLabel,
    QStackedWidget,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from scutcher.charts.description import Chart
from scutcher.desk.context import Desk
from scutcher.desk.pages.declaration import PageView
from scutcher.desk.pages.groups.labelled import Labelled

Pieces = Sequence[tuple[str, tuple[int, ...]]]

MODES = {
    "labelled": "as labelled|How far the labelled classes lie apart, and whether left-out samples find them"
}


class Finding(QLabel):
    """One sentence; a piece that stands for samples picks them when it is clicked."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self.setObjectName("finding")
        self.setTextFormat(Qt.TextFormat.RichText)
        self.setMinimumWidth(60)
        self._desk = desk
        self._rows: list[tuple[int, ...]] = []
        self.linkActivated.connect(self._on_link)

    def show_pieces(self, pieces: Pieces) -> None:
        """Put another sentence in."""
        self._rows = [rows for _, rows in pieces]
        words = []
        for place, (text, rows) in enumerate(pieces):
            said = escape(text)
            words.append(
                f'<a href="{place}" style="color:inherit;text-decoration:none"><b>{said}</b></a>'
                if rows
                else said
            )
        self.setText("".join(words))
        self.setToolTip("".join(text for text, _ in pieces) + "\nClick what is bold to pick those samples")

    def _on_link(self, place: str) -> None:
        self._desk.selection.pick(self._rows[int(place)])


class GroupsPage(PageView):
    """Composes the three ways to look; each is made when it is first looked at."""

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.desk = desk
        self.finding = Finding(desk)
        self.labelled = Labelled(desk, self.finding.show_pieces)
        self.stack = QStackedWidget()
        self.stack.addWidget(self.labelled)
        self.modes: dict[str, QToolButton] = {}
        layout = QVBoxLayout(self)
        layout.setContentsMargins(8, 5, 8, 7)
        layout.setSpacing(5)
        layout.addLayout(self._header())
        layout.addWidget(self.stack, 1)

    def _header(self) -> QHBoxLayout:
        header = QHBoxLayout()
        header.setContentsMargins(4, 0, 0, 0)
        header.addWidget(self.finding, 1)
        group = QButtonGroup(self)
        for key, words in MODES.items():
            word, _, tip = words.partition("|")
            button = QToolButton()
            button.setText(word)
            button.setToolTip(tip)
            button.setCheckable(True)
            button.clicked.connect(lambda _=False, key=key: self.show_mode(key))
            group.addButton(button)
            header.addWidget(button)
            self.modes[key] = button
        self.modes["labelled"].setChecked(True)
        return header

    def show_mode(self, key: str) -> None:
        """Look in another way."""
        self.modes[key].setChecked(True)
        self.stack.setCurrentIndex(list(MODES).index(key))

    def views(self) -> Sequence[object]:
        """Everything that draws a chart here."""
        return self.labelled.views

    def charts(self) -> list[Chart]:
        """The charts on the page that have something in them."""
        return [
            view.chart for view in self.labelled.views if view.chart is not None and not view.chart.is_blank
        ]
