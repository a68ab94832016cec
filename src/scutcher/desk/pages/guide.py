"""The guide inside: a page of words for each page, and one for reading files."""

from __future__ import annotations

from importlib.resources import files

from PySide6.QtWidgets import (
    QFrame,
    QHBoxLayout,
    QListWidget,
    QPushButton,
    QTextBrowser,
    QVBoxLayout,
    QWidget,
)

from scutcher.desk.pages.overlay import Over
from scutcher.desk.widgets.panel import paper
from scutcher.desk.words import Words

CHAPTERS = {
    "First steps": "start.md",
    "Reading files": "reading.md",
    "Samples": "samples.md",
    "Treat": "treat.md",
    "Rank": "rank.md",
    "Compare": "compare.md",
    "Inspect": "inspect.md",
    "Groups": "groups.md",
    "Maps": "maps.md",
    "Series": "series.md",
    "Blocks": "blocks.md",
    "Report": "report.md",
    "Keys": "keys.md",
}
"""Titles and files, in order; those of pages bear the page's name."""


class GuidePage(Over):
    """Chapters at the left, words at the right."""

    def __init__(self, chapter: str, keys: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._keys = keys
        self.list = QListWidget()
        self.list.addItems(list(CHAPTERS))
        self.list.setFixedWidth(150)
        self.text = QTextBrowser()
        self.text.setOpenExternalLinks(False)
        self.text.setFrameShape(QFrame.Shape.NoFrame)
        self.text.document().setDocumentMargin(14)
        self.list.setSpacing(3)
        self.list.currentTextChanged.connect(self.show_chapter)
        title = Words("Guide")
        title.setObjectName("strong")
        leave = QPushButton("Back to the page")
        leave.clicked.connect(self.done)
        top, row, column = QHBoxLayout(), QHBoxLayout(), QVBoxLayout(self)
        top.addWidget(title)
        top.addStretch(1)
        top.addWidget(leave)
        row.addWidget(self.list)
        self.heading = Words()
        row.addWidget(paper(self.heading, self.text), 1)
        column.setContentsMargins(12, 10, 12, 10)
        column.addLayout(top)
        column.addLayout(row, 1)
        self.list.setCurrentRow(list(CHAPTERS).index(chapter) if chapter in CHAPTERS else 0)

    def show_chapter(self, chapter: str) -> None:
        """Show the words of a chapter."""
        words = files("scutcher.desk").joinpath("guide", CHAPTERS[chapter]).read_text(encoding="utf-8")
        title, _, words = words.partition("\n")
        self.heading.setText(title.removeprefix("# "))
        self.text.setMarkdown(words.replace("{keys}", self._keys))
