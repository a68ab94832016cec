"""The top bar: the name, the study, the pages, back and forward, and the search field."""

from __future__ import annotations

from dataclasses import replace
from operator import is_

from PySide6.QtCore import Signal
from PySide6.QtWidgets import QFrame, QHBoxLayout, QToolButton, QWidget

from scutcher.core.words import shown
from scutcher.desk.context import Desk, follow, follow_live
from scutcher.desk.pages.declaration import Page, has_data
from scutcher.desk.shell.finder import Finder, SearchField
from scutcher.desk.shell.menu import menu_of
from scutcher.desk.widgets.note import Note
from scutcher.desk.words import Words, tip

HEIGHT = 42


class TopBar(QFrame):
    """Along the top of the window."""

    open_requested = Signal()
    undo_requested = Signal()
    redo_requested = Signal()
    page_requested = Signal(str)

    def __init__(
        self, desk: Desk, finder: Finder, pages: tuple[Page, ...], parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self.setObjectName("topbar")
        self.setFixedHeight(HEIGHT)
        self.desk = desk
        self._shown: tuple[object, ...] | None = None
        word = Words("scutcher")
        word.setObjectName("wordmark")
        self.study = Note()
        self.study.setObjectName("quiet")
        self.search = SearchField(finder.entries)
        self.open = self._word(
            "Open…", "Bring in a table of spectra (Ctrl+O), or drop the file on the window"
        )
        self.menu = self._word("Menu", "All actions by what they act on, with their keys (F10)")
        self.menu.setPopupMode(QToolButton.ToolButtonPopupMode.InstantPopup)
        self.choices = menu_of(self.menu)
        self.menu.setMenu(self.choices)
        self.undo, self.redo = self._word("Undo", ""), self._word("Redo", "")
        self.open.clicked.connect(self.open_requested)
        self.undo.clicked.connect(self.undo_requested)
        self.redo.clicked.connect(self.redo_requested)
        layout = QHBoxLayout(self)
        layout.setContentsMargins(14, 0, 12, 0)
        layout.setSpacing(4)
        layout.addWidget(word)
        layout.addSpacing(8)
        layout.addWidget(self.study)
        self.working = Words("computing…")
        self.working.setObjectName("quiet")
        kept = self.working.sizePolicy()
        kept.setRetainSizeWhenHidden(True)  # the pages stay where they are
        self.working.setSizePolicy(kept)
        layout.addWidget(self.working)
        layout.addSpacing(6)
        self.pages: dict[str, QToolButton] = {}
        self._declared = {page.name: page for page in pages}
        for place, page in enumerate(pages):
            button = self._word(page.name, f"{page.purpose} (Ctrl+{place + 1})")
            button.setObjectName("page")
            button.setCheckable(True)
            button.clicked.connect(lambda _=False, name=page.name: self.page_requested.emit(name))
            layout.addWidget(button)
            self.pages[page.name] = button
        layout.addStretch(1)
        for widget in (self.menu, self.undo, self.redo, self.open):
            layout.addWidget(widget)
        layout.addWidget(self.search, 100)
        follow(self, desk.study, lambda changed: self.refresh())
        follow_live(self, desk, self.refresh)
        self.refresh()

    def show_page(self, name: str) -> None:
        """Underline the page that is shown."""
        for page, button in self.pages.items():
            button.setChecked(page == name)

    def refresh(self) -> None:
        """The study's name and size, the pages that suit it, and what undo and redo would do."""
        self.working.setVisible(self.desk.live.busy)
        study, found = self.desk.study, self.desk.moment.found
        told = study.state, found, study.undo_label, study.redo_label
        if self._shown is not None and all(map(is_, told, self._shown)):
            return
        self._shown = told
        table = study.state.table
        if table is None:
            self.study.setText("no data yet")
        else:
            n, p = table.shape
            kind = "channels" if table.axis.ordered else "variables"
            self.study.setText(f"{study.state.name}  ·  {shown(n, ',')} samples × {shown(p, ',')} {kind}")
        moment = replace(self.desk.moment, state=study.state)
        for name, page in self._declared.items():
            always = table is None and page.suits is has_data
            self.pages[name].setVisible(always or page.suits(moment))
        for button, label, key in (
            (self.undo, study.undo_label, "Ctrl+Z"),
            (self.redo, study.redo_label, "Ctrl+Shift+Z"),
        ):
            button.setEnabled(label is not None)
            button.setToolTip(tip(f"{label} ({key})" if label else f"Nothing ({key})"))

    def _word(self, word: str, meaning: str) -> QToolButton:
        button = QToolButton()
        button.setText(word)
        button.setToolTip(meaning)
        return button
