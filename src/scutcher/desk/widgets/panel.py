"""A panel: title, quiet note, choices on it that act at once, and a chart."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import QItemSelectionModel, Qt
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import (
    QAbstractItemView,
    QButtonGroup,
    QFrame,
    QHBoxLayout,
    QLabel,
    QSizePolicy,
    QStackedWidget,
    QTableView,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from scutcher.charts.description import Chart
from scutcher.desk.widgets.axis_title import AxisTitle
from scutcher.desk.widgets.note import Note, Title
from scutcher.desk.words import Words


def quiet_table(view: QTableView) -> None:
    """Rows without lines, headers without weight: the look of every table."""
    view.setSelectionBehavior(QAbstractItemView.SelectionBehavior.SelectRows)
    view.setShowGrid(False)
    view.setWordWrap(False)
    view.setTextElideMode(Qt.TextElideMode.ElideMiddle)
    view.horizontalHeader().setTextElideMode(Qt.TextElideMode.ElideMiddle)
    view.verticalHeader().hide()
    view.verticalHeader().setDefaultSectionSize(22)
    view.horizontalHeader().setHighlightSections(False)
    view.horizontalHeader().setStretchLastSection(True)
    if view.model() is not None:  # of that of the table Qt asks each selected row, in each column
        view.horizontalHeader().setSelectionModel(QItemSelectionModel(view.model(), view))


def paper(
    title: str | QLabel, inside: QWidget, words: tuple[QLabel, ...] = (), tools: tuple[QWidget, ...] = ()
) -> QFrame:
    """A panel around a table or a text: title, quiet words after it, tools at the right."""
    frame = QFrame()
    frame.setObjectName("panel")
    heading = Words(title) if isinstance(title, str) else title
    heading.setObjectName("title")
    header = QHBoxLayout()
    header.setContentsMargins(8, 0, 6, 0)
    header.addWidget(heading)
    for label in words:
        label.setObjectName("quiet")
        header.addWidget(label)
    header.addStretch(1)
    for tool in tools:
        header.addWidget(tool)
    column = QVBoxLayout(frame)
    column.setContentsMargins(1, 5, 1, 1)
    column.setSpacing(4)
    column.addLayout(header)
    column.addWidget(inside, 1)
    if not inside.accessibleName():
        inside.setAccessibleName(heading.text())
    return frame


def word_button(words: str) -> QToolButton:
    """A word that is on or off; "word|tooltip"."""
    word, _, tip = words.partition("|")
    button = QToolButton()
    button.setText(word)
    button.setToolTip(tip)
    button.setCheckable(True)
    button.setFocusPolicy(Qt.FocusPolicy.TabFocus)
    return button


def choice_words(
    owner: QWidget, choices: dict[str, str], chosen: Callable[[str], None]
) -> dict[str, QToolButton]:
    """Words of which one is on, the first at first.

    Parameters
    ----------
    owner : keeps them together
    choices : key → word, or "word|tooltip"
    chosen : is told the key
    """
    group = QButtonGroup(owner)
    buttons = {key: word_button(words) for key, words in choices.items()}
    for key, button in buttons.items():
        group.addButton(button)
        button.clicked.connect(lambda _=False, key=key: chosen(key))
    next(iter(buttons.values())).setChecked(True)
    return buttons


class ChartPanel(QFrame):
    """A frame around one view."""

    def __init__(
        self, view: QWidget, definition: str, bottom_title: bool = True, parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self.setObjectName("panel")
        self.view = view
        self.title = Title(definition)
        self.title.setObjectName("title")
        self.note = Note()
        self.note.setObjectName("quiet")
        self.readout = Words()
        self.readout.setObjectName("readout")
        self.empty = Words("", view)
        self.empty.setAttribute(Qt.WidgetAttribute.WA_TransparentForMouseEvents)
        self.empty.setObjectName("empty")
        self.empty.setAlignment(Qt.AlignmentFlag.AlignCenter)
        self.empty.setWordWrap(True)
        self.x_title, self.y_title = AxisTitle(), AxisTitle(upright=True)
        self._bottom_title = bottom_title
        if not bottom_title:
            self.x_title.hide()
        self._header = QHBoxLayout()
        self._header.setContentsMargins(8, 0, 6, 0)
        self._header.setSpacing(5)
        self._header.addWidget(self.title)
        self.note.setSizePolicy(QSizePolicy.Policy.Ignored, QSizePolicy.Policy.Preferred)
        self._header.addWidget(self.note, 1)  # the title comes first, the note has what is left
        self._header.addStretch(0)
        self._header.addWidget(self.readout)
        self.readout.hide()  # it takes room where there is none, for those that say nothing there
        self._middle = QHBoxLayout()
        self._middle.setContentsMargins(3, 0, 0, 0)
        self._middle.setSpacing(0)
        self._middle.addWidget(self.y_title)
        self._middle.addWidget(view, 1)
        self._body = QVBoxLayout(self)
        self._body.setContentsMargins(0, 5, 0, 4)
        self._body.setSpacing(1)
        self._body.addLayout(self._header)
        self._body.addLayout(self._middle, 1)
        self._body.addWidget(self.x_title)
        self.empty.hide()

    def add_below(self, widget: QWidget) -> None:
        """Put a widget under the plot."""
        self._body.addWidget(widget)

    def add_to_header(self, widget: QWidget) -> None:
        """Put a widget at the right of the header."""
        self._header.addWidget(widget)

    def add_choices(self, choices: dict[str, str], chosen: Callable[[str], None]) -> dict[str, QToolButton]:
        """Words of which one is on.

        Parameters
        ----------
        choices : key → word, or "word|tooltip"
        chosen : is told the key
        """
        buttons = choice_words(self, choices, chosen)
        for button in buttons.values():
            self._header.addWidget(button)
        return buttons

    def add_switch(self, words: str, switched: Callable[[bool], None]) -> QToolButton:
        """A word that is on or off."""
        button = self._word(words)
        button.toggled.connect(switched)
        return button

    def describe(self, chart: Chart, key: str = "") -> None:
        """Put the words of a chart around the view; an empty one says what to do.

        Parameters
        ----------
        key : markup that stands in the place of its note
        """
        self.title.setText(chart.title)
        if key:
            self.note.show_rich(key)
        else:
            self.note.setText(chart.note if chart.is_blank or not chart.empty else chart.empty)
        self.x_title.setText(chart.x_title)
        self.x_title.setVisible(self._bottom_title and not chart.tick_names)
        self.empty.setText(chart.empty)
        self.empty.setVisible(chart.is_blank)
        self.y_title.setText("" if chart.is_blank else chart.y_title)
        self._say(chart)
        self._lay_empty()

    def _say(self, chart: Chart) -> None:
        """The view tells what is on it to whoever cannot see it."""
        view = self.view.currentWidget() if isinstance(self.view, QStackedWidget) else self.view
        if view is not None:
            view.setAccessibleName(chart.title or "chart")
            view.setAccessibleDescription(chart.said)

    def resizeEvent(self, event: QResizeEvent) -> None:
        """The empty words stay in the middle of the view."""
        super().resizeEvent(event)
        self._lay_empty()

    def _lay_empty(self) -> None:
        self.empty.setGeometry(self.view.rect())

    def _word(self, words: str) -> QToolButton:
        button = word_button(words)
        self._header.addWidget(button)
        return button


def told_column(headline: QLabel, figures: QLabel) -> QVBoxLayout:
    """A headline over its figures, in the middle of a bar."""
    headline.setObjectName("strong")
    figures.setObjectName("quiet")
    column = QVBoxLayout()
    column.setSpacing(2)
    column.addStretch(1)
    column.addWidget(headline)
    column.addWidget(figures)
    column.addStretch(1)
    return column
