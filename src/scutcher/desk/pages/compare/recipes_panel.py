"""Both recipes in words, with a way to go on with one of them."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial

from PySide6.QtCore import Qt
from PySide6.QtWidgets import QFrame, QGridLayout, QHBoxLayout, QPushButton, QScrollArea, QVBoxLayout, QWidget

from scutcher.charts.comparing.recipes import RecipeWords
from scutcher.desk.words import Words


class RecipesPanel(QFrame):
    """What both models do, what was changed, what only one does."""

    def __init__(self, take: Callable[[int], object], parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("panel")
        title = Words("Recipes, in words")
        title.setObjectName("title")
        inside = QWidget()
        self.grid = QGridLayout(inside)
        self.grid.setContentsMargins(8, 0, 8, 0)
        self.grid.setHorizontalSpacing(10)
        self.grid.setVerticalSpacing(5)
        self.grid.setColumnStretch(1, 1)
        scroll = QScrollArea()
        scroll.setWidgetResizable(True)
        scroll.setFrameShape(QFrame.Shape.NoFrame)
        scroll.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        scroll.setWidget(inside)
        self.buttons = (QPushButton("Take recipe A"), QPushButton("Take recipe B"))
        row = QHBoxLayout()
        row.setContentsMargins(8, 0, 8, 6)
        for place, button in enumerate(self.buttons):
            button.setToolTip("Put this recipe on the trail, in place of the one there")
            button.clicked.connect(partial(take, place))
            row.addWidget(button)
        column = QVBoxLayout(self)
        column.setContentsMargins(1, 5, 1, 1)
        column.setSpacing(4)
        heading = QHBoxLayout()
        heading.setContentsMargins(8, 0, 6, 0)
        heading.addWidget(title)
        column.addLayout(heading)
        column.addWidget(scroll, 1)
        column.addLayout(row)

    def show_words(self, words: RecipeWords, on_trail: Sequence[bool]) -> None:
        """Put others in; a recipe that is on the trail already cannot be taken."""
        while (item := self.grid.takeAt(0)) is not None:
            if (old := item.widget()) is not None:
                old.setParent(None)
                old.deleteLater()
        for place, (heading, text) in enumerate(words.rows()):
            name, said = Words(heading), Words(text)
            name.setObjectName("quiet")
            said.setWordWrap(True)
            self.grid.addWidget(name, place, 0, Qt.AlignmentFlag.AlignTop)
            self.grid.addWidget(said, place, 1)
        self.grid.setRowStretch(len(words.rows()), 1)
        for button, there in zip(self.buttons, on_trail, strict=True):
            button.setEnabled(not there)
