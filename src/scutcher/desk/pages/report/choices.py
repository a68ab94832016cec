"""What is chosen of a report: title, author, question, paper, sections, remarks, figures, captions."""

from __future__ import annotations

from typing import Any

from msgspec.structs import replace
from PySide6.QtCore import QSignalBlocker, Qt, Signal
from PySide6.QtGui import QFocusEvent
from PySide6.QtWidgets import (
    QAbstractItemView,
    QFormLayout,
    QFrame,
    QLineEdit,
    QListWidget,
    QListWidgetItem,
    QPlainTextEdit,
    QVBoxLayout,
    QWidget,
)

from scutcher.charts.report.contents import KEYS, SECTIONS
from scutcher.charts.report.document import Document, Picture
from scutcher.desk.context import Desk
from scutcher.desk.widgets.combo import Combo
from scutcher.desk.words import Words
from scutcher.study.document.commands.report import ReportBy
from scutcher.study.document.report_settings import ReportSettings, SectionSettings

TITLES = {kind.key: kind.title for kind in SECTIONS}
PAPERS = {"a4": "A4", "letter": "Letter"}
TALL, LEAST = 50, 48
"""Pixels of words of one's own, and of a list where there is little room."""

ROLE = Qt.ItemDataRole.UserRole


class Remark(QPlainTextEdit):
    """Words of one's own; they are taken when the focus goes elsewhere."""

    left = Signal()

    def __init__(self, placeholder: str) -> None:
        super().__init__()
        self.setObjectName("words")
        self.setAccessibleName(placeholder)
        self.setPlaceholderText(placeholder)
        self.setFixedHeight(TALL)
        self.setTabChangesFocus(True)

    def focusOutEvent(self, event: QFocusEvent) -> None:
        """Whoever goes elsewhere has written what was to be written."""
        super().focusOutEvent(event)
        self.left.emit()


class Ordered(QListWidget):
    """A list whose rows are switched on and off, and dragged to another place."""

    moved = Signal()

    def __init__(self, tip: str) -> None:
        super().__init__()
        self.setObjectName("rows")
        self.setFrameShape(QFrame.Shape.NoFrame)
        self.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.setMinimumHeight(LEAST)
        self.setToolTip(tip)
        self.setUniformItemSizes(True)

    def dropEvent(self, event: Any) -> None:
        """A row is where it was let go."""
        super().dropEvent(event)
        self.moved.emit()

    def put(self, rows: list[tuple[str, str, bool]]) -> None:
        """Key, words and whether it is on, of each row; what was chosen stays chosen."""
        chosen = None if self.currentItem() is None else self.currentItem().data(ROLE)
        with QSignalBlocker(self):
            self.clear()
            for key, words, on in rows:
                item = QListWidgetItem(words)
                item.setData(ROLE, key)
                item.setToolTip(words)
                item.setFlags(item.flags() | Qt.ItemFlag.ItemIsUserCheckable)
                item.setCheckState(Qt.CheckState.Checked if on else Qt.CheckState.Unchecked)
                self.addItem(item)
                if key == chosen:
                    self.setCurrentItem(item)

    def rows(self) -> list[tuple[str, bool]]:
        """Key and whether it is on, from top to bottom."""
        items = [self.item(place) for place in range(self.count())]
        return [(str(item.data(ROLE)), item.checkState() == Qt.CheckState.Checked) for item in items]

    @property
    def key(self) -> str:
        """Of the chosen row; "" where none is."""
        return "" if self.currentItem() is None else str(self.currentItem().data(ROLE))


class ReportChoices(QFrame):
    """Every choice is a command of the study, and can be undone."""

    chosen = Signal(str)
    """With the key of the section that was clicked."""

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("panel")
        self.desk = desk
        self.figures_there: dict[str, str] = {}
        self.there: frozenset[str] = frozenset()
        self.title, self.author, self.paper = QLineEdit(), QLineEdit(), Combo()
        self.author.setPlaceholderText("who answers for it")
        self.paper.addItems(list(PAPERS.values()))
        self.question = Remark("what was asked, in your own words")
        self.sections = Ordered("Which sections are written, and in which order: drag a row")
        self.sections.setDragDropMode(QAbstractItemView.DragDropMode.InternalMove)
        self.remark = Remark("a remark on the chosen section")
        self.figures = Ordered("Which figures are in it; choose one to give it a caption of your own")
        self.caption = Remark("a caption for the chosen figure")
        self._connect()
        self._arrange()

    def _connect(self) -> None:
        self.title.editingFinished.connect(lambda: self._change(title=self.title.text().strip()))
        self.author.editingFinished.connect(lambda: self._change(author=self.author.text().strip()))
        self.paper.activated.connect(lambda place: self._change(paper=list(PAPERS)[place]))
        self.question.left.connect(lambda: self._change(question=self.question.toPlainText().strip()))
        self.sections.itemChanged.connect(lambda item: self._take_sections())
        self.sections.moved.connect(self._take_sections)
        self.sections.currentItemChanged.connect(lambda now, before: self._on_section())
        self.remark.left.connect(self._take_remark)
        self.figures.itemChanged.connect(lambda item: self._take_figures())
        self.figures.currentItemChanged.connect(lambda now, before: self._show_caption())
        self.caption.left.connect(self._take_caption)

    def _arrange(self) -> None:
        form = QFormLayout()
        form.setContentsMargins(10, 8, 10, 4)
        form.setVerticalSpacing(5)
        for name, field in (("title", self.title), ("author", self.author), ("paper", self.paper)):
            form.addRow(name, field)
        form.addRow(self.question)
        column = QVBoxLayout(self)
        column.setContentsMargins(1, 0, 1, 8)
        column.setSpacing(4)
        column.addLayout(form)
        for heading, widget, edit, share in (
            ("Sections", self.sections, self.remark, 60),
            ("Figures", self.figures, self.caption, 40),
        ):
            words = Words(heading)
            words.setObjectName("title")
            words.setContentsMargins(10, 4, 0, 0)
            widget.setAccessibleName(heading)
            column.addWidget(words)
            column.addWidget(widget, share)
            around = QVBoxLayout()
            around.setContentsMargins(10, 0, 10, 0)
            around.addWidget(edit)
            column.addLayout(around)

    # From the study

    def refresh(self, document: Document | None) -> None:
        """Show what is chosen; which sections and figures there are is known once they were made."""
        settings = self._settings
        for edit, words in ((self.title, settings.title), (self.author, settings.author)):
            if not edit.hasFocus():
                edit.setText(words)
        self.title.setPlaceholderText(self.desk.study.state.name)
        self.paper.setCurrentIndex(list(PAPERS).index(settings.paper))
        if not self.question.hasFocus():
            self.question.setPlainText(settings.question)
        if document is not None:
            self.there = frozenset(section.key for section in document.sections)
            for section in document.sections:
                pictures = [part for part in section.parts if isinstance(part, Picture)]
                self.figures_there |= {part.key: part.caption for part in pictures}
        order = settings.ordered(KEYS)
        self.sections.put(
            [
                (key, TITLES[key], settings.of(key).on)
                for key in order
                if not self.there or key in self.there or not settings.of(key).on
            ]
        )
        self.figures.put([(key, key, key not in settings.hidden) for key in self.figures_there])
        self._on_section(tell=False)
        self._show_caption()

    @property
    def _settings(self) -> ReportSettings:
        return self.desk.study.state.report

    def _on_section(self, tell: bool = True) -> None:
        key = self.sections.key
        self.remark.setEnabled(bool(key))
        if not self.remark.hasFocus():
            self.remark.setPlainText(self._settings.of(key).remark if key else "")
        if tell and key:
            self.chosen.emit(key)

    def _show_caption(self) -> None:
        key = self.figures.key
        self.caption.setEnabled(bool(key))
        if not self.caption.hasFocus():
            own = dict(self._settings.captions)
            self.caption.setPlainText(own.get(key, self.figures_there.get(key, "")))

    # To the study

    def _change(self, **chosen: Any) -> None:
        settings = replace(self._settings, **chosen)
        if settings != self._settings:
            self.desk.do(ReportBy(settings))

    def _take_sections(self) -> None:
        shown = dict(self.sections.rows())
        order = [key for key, _ in self.sections.rows()]
        rest = [key for key in self._settings.ordered(KEYS) if key not in shown]
        sections = tuple(
            replace(self._settings.of(key), on=shown.get(key, self._settings.of(key).on))
            for key in [*order, *rest]
        )
        self._change(sections=sections)

    def _take_remark(self) -> None:
        key, words = self.sections.key, self.remark.toPlainText().strip()
        if not key or words == self._settings.of(key).remark:
            return
        kept = {one.key: one for one in self._settings.sections}
        order = self._settings.ordered(KEYS)
        kept[key] = replace(kept.get(key, SectionSettings(key)), remark=words)
        self._change(sections=tuple(kept.get(one, SectionSettings(one)) for one in order))

    def _take_figures(self) -> None:
        self._change(hidden=tuple(key for key, on in self.figures.rows() if not on))

    def _take_caption(self) -> None:
        key, words = self.figures.key, self.caption.toPlainText().strip()
        if not key or words == self.figures_there.get(key, ""):
            return
        own = {**dict(self._settings.captions), key: words}
        self._change(captions=tuple((name, text) for name, text in own.items() if text))
