"""The guide inside: a page of words for each page, and one for reading files."""

from __future__ import annotations

from importlib.resources import files

from PySide6.QtCore import QSignalBlocker
from PySide6.QtGui import QTextCursor
from PySide6.QtWidgets import (
    QFrame,
    QHBoxLayout,
    QLineEdit,
    QListWidget,
    QPushButton,
    QTextBrowser,
    QVBoxLayout,
    QWidget,
)

from scutcher.charts.guide_chapters import figures_chapter, settings_chapter, treatments_chapter
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
    "Treatments": "treatments.md",
    "Settings": "settings.md",
    "What figures mean": "figures.md",
    "Glossary": "glossary.md",
    "Keys": "keys.md",
}
"""Titles and files, in order; those of pages bear the page's name."""


MADE = {
    "treatments": treatments_chapter,
    "settings": settings_chapter,
    "figures": figures_chapter,
}
"""What stands in braces in a chapter, and what makes it."""


def chapter_words(chapter: str, keys: str) -> tuple[str, str]:
    """Title and words of a chapter, in Markdown."""
    words = files("scutcher.desk").joinpath("guide", CHAPTERS[chapter]).read_text(encoding="utf-8")
    title, _, words = words.partition("\n")
    for name, make in MADE.items():
        if f"{{{name}}}" in words:
            words = words.replace(f"{{{name}}}", make())
    return title.removeprefix("# "), words.replace("{keys}", keys)


def whole_guide(keys: str) -> str:
    """All chapters as one text, for the docs."""
    told = [
        "# The guide of Scutcher",
        "",
        "Made by `./run screenshots` from the chapters inside; F1 shows it.",
    ]
    for chapter in CHAPTERS:
        title, words = chapter_words(chapter, keys)
        deeper = words.replace("\n### ", "\n#### ").replace("\n## ", "\n### ")
        told += ["", f"## {title}", deeper.strip()]
    return "\n".join(told) + "\n"


class GuidePage(Over):
    """Chapters at the left, words at the right; what is looked for leaves the chapters that have it."""

    def __init__(self, chapter: str, keys: str, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._keys = keys
        self._first = chapter
        self.list = QListWidget()
        self.list.setFixedWidth(150)
        self.list.setSpacing(3)
        self.search = QLineEdit()
        self.search.setPlaceholderText("find in the guide")
        self.search.setClearButtonEnabled(True)
        self.search.setFixedWidth(220)
        self.search.textChanged.connect(self._look)
        self.search.returnPressed.connect(self._next)
        self.text = QTextBrowser()
        self.text.setOpenExternalLinks(False)
        self.text.setFrameShape(QFrame.Shape.NoFrame)
        self.text.document().setDocumentMargin(14)
        self.list.currentTextChanged.connect(self.show_chapter)
        title = Words("Guide")
        title.setObjectName("strong")
        leave = QPushButton("Back to the page")
        leave.clicked.connect(self.done)
        top, row, column = QHBoxLayout(), QHBoxLayout(), QVBoxLayout(self)
        for widget in (title, self.search):
            top.addWidget(widget)
        top.addStretch(1)
        top.addWidget(leave)
        row.addWidget(self.list)
        self.heading = Words()
        row.addWidget(paper(self.heading, self.text), 1)
        column.setContentsMargins(12, 10, 12, 10)
        column.addLayout(top)
        column.addLayout(row, 1)
        self._list_chapters(list(CHAPTERS))

    def show_chapter(self, chapter: str) -> None:
        """Show the words of a chapter, at the first place of what is looked for."""
        if chapter not in CHAPTERS:
            return
        title, words = chapter_words(chapter, self._keys)
        self.heading.setText(title)
        self.text.setMarkdown(words)
        if self.search.text():
            self.text.find(self.search.text())

    def _look(self, wanted: str) -> None:
        """The chapters that have what was typed."""
        having = [
            chapter
            for chapter in CHAPTERS
            if wanted.casefold() in " ".join(chapter_words(chapter, self._keys)).casefold()
        ]
        self._list_chapters(having)
        if not having:
            self.heading.setText("Nothing is said of it")
            self.text.setMarkdown("No chapter has these words: try fewer, or the name that textbooks use.")

    def _list_chapters(self, chapters: list[str]) -> None:
        now = self.list.currentItem()
        kept = self._first if now is None else now.text()
        with QSignalBlocker(self.list):
            self.list.clear()
            self.list.addItems(chapters)
            self.list.setCurrentRow(chapters.index(kept) if kept in chapters else 0)
        if chapters:
            self.show_chapter(chapters[self.list.currentRow()])

    def _next(self) -> None:
        """Go to the next place in this chapter, or to its first again."""
        if not self.text.find(self.search.text()):
            self.text.moveCursor(QTextCursor.MoveOperation.Start)
            self.text.find(self.search.text())
