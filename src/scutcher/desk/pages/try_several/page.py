"""Try several: recipes run behind, each outcome a small score plane with its figures; none is hidden."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import Qt
from PySide6.QtGui import QResizeEvent
from PySide6.QtWidgets import (
    QFrame,
    QGridLayout,
    QHBoxLayout,
    QLineEdit,
    QProgressBar,
    QPushButton,
    QScrollArea,
    QVBoxLayout,
    QWidget,
)

from scutcher.charts import colours
from scutcher.charts.emphasis import colouring_of
from scutcher.core.errors import InputError
from scutcher.core.progress import Watch
from scutcher.core.recipes.recipe import Recipe
from scutcher.core.treatments.base import Field, fields_of
from scutcher.core.words import listed, typed_number
from scutcher.desk.context import Desk, Mailbox
from scutcher.desk.pages.overlay import Over
from scutcher.desk.pages.try_several.card import CARD, Card
from scutcher.desk.widgets.combo import Combo
from scutcher.desk.words import Words
from scutcher.study.document.commands.recipe import UseRecipe, with_components
from scutcher.study.document.commands.shelf import PutBy
from scutcher.study.evaluation.recipe_trials import Outcome, folded, outcomes, parameter_range, sensible_grid
from scutcher.study.work import Priority, raise_error

MOST_ACROSS, GAP, RIGHT = 6, 8, 6
"""Cards beside each other at most; pixels between them, and at their right."""

SORTS = {
    "as tried": ("", 1),
    "classes apart": ("separation", -1),
    "Q²": ("q2", -1),
    "R²": ("r2", -1),
    "replicate spread": ("replicates", 1),
}
SLOT = "trials"
"""Of the queue."""


class TrySeveral(Over):
    """What to try above, the outcomes below as they come."""

    leaves_on_escape = False

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.desk = desk
        self.outcomes: list[Outcome] = []
        self.cards: list[Card] = []
        self._mail = Mailbox(self)
        self._run = 0
        self._fields: list[tuple[int, Field]] = []
        self._arrange()
        self.start_grid()

    def _arrange(self) -> None:
        title = Words("Try several")
        title.setObjectName("strong")
        self.said = Words()
        self.said.setObjectName("quiet")
        self.what = Combo()
        self.what.addItem("a sensible grid")
        for place, step in enumerate(self.desk.study.state.recipe.treat):
            for field in fields_of(type(step.parameters)):
                if field.kind in ("int", "float", "choice"):
                    self._fields.append((place, field))
                    self.what.addItem(f"{step.treatment.name}: {field.name.replace('_', ' ')}")
        self.what.activated.connect(lambda place: self._chosen(place))
        self.values = QLineEdit()
        self.values.setPlaceholderText("values, e.g. 5, 9, 15, 25")
        self.values.setFixedWidth(220)
        self.values.setVisible(False)
        self.values.returnPressed.connect(self.start_range)
        self.sort = Combo()
        self.sort.addItems(list(SORTS))
        self.sort.activated.connect(lambda place: self._lay())
        self.go, self.stop, close = QPushButton("Run"), QPushButton("Stop"), QPushButton("Close")
        self.go.setObjectName("primary")
        self.go.clicked.connect(self._start)
        self.stop.clicked.connect(self.halt)
        close.clicked.connect(self.done)
        self.progress = QProgressBar()
        self.progress.setTextVisible(False)
        self.progress.setFixedWidth(120)
        header = QHBoxLayout()
        header.setContentsMargins(4, 2, 4, 2)
        for widget in (title, self.said, self.what, self.values, self.go, self.stop, self.progress):
            header.addWidget(widget)
        header.addStretch(1)
        header.addWidget(Words("sort by"))
        header.addWidget(self.sort)
        header.addWidget(close)
        self._grid = QGridLayout()
        self._grid.setSpacing(GAP)
        self._grid.setContentsMargins(0, 0, 0, 0)
        inside = QWidget()
        outer = QVBoxLayout(inside)
        outer.setContentsMargins(0, 0, RIGHT, 0)
        outer.addLayout(self._grid)
        outer.addStretch(1)
        self._scroll = QScrollArea()
        self._scroll.setWidgetResizable(True)
        self._scroll.setFrameShape(QFrame.Shape.NoFrame)
        self._scroll.setWidget(inside)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(8, 8, 8, 7)
        layout.addLayout(header)
        layout.addWidget(self._scroll, 1)

    def _chosen(self, place: int) -> None:
        self.values.setVisible(place > 0)
        if place > 0:
            field = self._fields[place - 1][1]
            self.values.setText(", ".join(map(str, field.choices)) if field.choices else "")
            self.values.setFocus()

    def _start(self) -> None:
        if self.what.currentIndex() > 0:
            self.start_range()
        else:
            self.start_grid()

    def start_grid(self) -> None:
        """Try corrections × derivatives × scalings that suit the kind of axis."""
        state = self.desk.study.state
        found = self.desk.moment.found
        table = state.table if found is None else found.part
        if table is not None:
            self.run(sensible_grid(table, state.recipe))

    def start_range(self) -> None:
        """Try the values of one parameter."""
        recipe = self.desk.study.state.recipe
        place, field = self._fields[self.what.currentIndex() - 1]
        words = listed(self.values.text())
        try:
            values = [
                word if field.choices else typed_number(word) if field.kind == "float" else int(word)
                for word in words
            ]
        except ValueError:
            values = []
        known = [str(choice) for choice in field.choices]
        wrong = [value for value in values if known and value not in known]
        if not values or wrong:
            self.desk.say(
                InputError(f"{self.values.text()!r} is not a list of values.", "Write them as 5, 9, 15, 25.")
            )
            return
        self.run(parameter_range(recipe, place, field.name, values))

    def run(self, recipes: list[Recipe]) -> None:
        """Evaluate recipes behind, the newest run wins."""
        self.halt()
        table = self.desk.study.state.table
        assert table is not None
        self.outcomes = []
        self._lay()
        self._run += 1
        run, codes = self._run, colouring_of(self.desk.study.state).codes
        codes = codes.copy()
        codes[codes >= colours.CONTINUOUS] = -1
        self.progress.setRange(0, len(recipes))
        self._tell(0, len(recipes))

        def work(watch: Watch) -> None:
            for place, outcome in enumerate(outcomes(table, recipes, codes, watch)):
                self._mail.post(partial(self._take, run, outcome, place + 1, len(recipes)))

        self.desk.live.ask(SLOT, None, work, raise_error, priority=Priority.GRIDS)

    def halt(self) -> None:
        """Stop at the next segment of the recipe in hand; what is there stays."""
        self._run += 1
        self.desk.live.queue.drop(SLOT)
        self.stop.setEnabled(False)
        self.progress.setVisible(False)

    def close_down(self) -> None:
        """Stop for good."""
        self.halt()

    def _take(self, run: int, outcome: Outcome, done: int, of: int) -> None:
        if run != self._run:
            return
        self.outcomes.append(outcome)
        self._tell(done, of)
        self._lay()

    def _tell(self, done: int, of: int) -> None:
        self.progress.setValue(done)
        self.progress.setVisible(done < of)
        self.stop.setEnabled(done < of)
        self.said.setText(f"{done} of {of}")

    def _lay(self) -> None:
        """The cards in the order asked for; twins as one. Those that are there already stay."""
        kept = folded(self.outcomes)
        key, sign = SORTS[self.sort.currentText()]
        if key:
            kept.sort(key=lambda outcome: _figure(outcome, key, sign))
        before = {_key(card.outcome): card for card in self.cards}
        self.cards = [before.get(_key(outcome)) or self._card(outcome) for outcome in kept]
        for card in set(before.values()) - set(self.cards):
            self._grid.removeWidget(card)
            card.setParent(None)
            card.deleteLater()
        self._place()

    def _card(self, outcome: Outcome) -> Card:
        card = Card(outcome)
        card.shelf_clicked.connect(lambda: self._to_shelf(outcome))
        card.trail_clicked.connect(lambda: self._to_trail(outcome))
        return card

    def _place(self) -> None:
        """As many beside each other as there is room for."""
        across = self.across
        for card in self.cards:
            self._grid.removeWidget(card)
        for place, card in enumerate(self.cards):
            self._grid.addWidget(card, place // across, place % across, Qt.AlignmentFlag.AlignLeft)
        for column in range(MOST_ACROSS + 1):  # what room is left stands behind the last
            self._grid.setColumnStretch(column, int(column == across))

    @property
    def across(self) -> int:
        """How many cards stand beside each other."""
        room = self._scroll.viewport().width() - RIGHT + GAP
        return min(max(room // (CARD.width() + GAP), 1), MOST_ACROSS)

    def resizeEvent(self, event: QResizeEvent) -> None:
        """Other cards may have room beside each other now."""
        super().resizeEvent(event)
        self._place()

    def _to_shelf(self, outcome: Outcome) -> None:
        if outcome.model is not None:
            kept = int(outcome.model.figure("components") or 1)
            self.desk.do(PutBy(outcome.name, outcome.model, with_components(outcome.recipe, kept)))

    def _to_trail(self, outcome: Outcome) -> None:
        if self.desk.do(UseRecipe(outcome.recipe, outcome.name)):
            self.done.emit()


def _key(outcome: Outcome) -> tuple[object, ...]:
    """What a card shows."""
    return id(outcome.recipe), outcome.same_as


def _figure(outcome: Outcome, key: str, sign: int) -> float:
    """What to sort by; those without the figure come last."""
    value = None if outcome.model is None else outcome.model.figure(key)
    return float("inf") if value is None else sign * value
