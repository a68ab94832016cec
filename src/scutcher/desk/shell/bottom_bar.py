"""The bar along the bottom: the ladder, its figures, and what is picked with what can be done with it."""

from __future__ import annotations

from functools import partial

from PySide6.QtCore import Qt, Signal
from PySide6.QtWidgets import QFrame, QHBoxLayout, QPushButton, QSizePolicy, QWidget

from scutcher.charts.definitions import DEFINITIONS
from scutcher.charts.ladder import Ladder, ladder
from scutcher.core.words import counted
from scutcher.desk.actions.components import keep_components, preview_components
from scutcher.desk.context import Desk, follow, follow_live
from scutcher.desk.trail.trail import WIDTH as TRAIL_WIDTH
from scutcher.desk.widgets.ladder import LadderBars
from scutcher.desk.widgets.note import Note
from scutcher.desk.widgets.panel import told_column
from scutcher.desk.words import Steady
from scutcher.study.evaluation.checks import Checked
from scutcher.study.evaluation.evaluation import Evaluation

PICK_WIDTH, NAMED = 250, 12


class BottomBar(QFrame):
    """Ladder at the left, pick at the right."""

    set_aside_requested = Signal()
    tag_requested = Signal()

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("ladder")
        self.setFixedHeight(60)
        self.desk = desk
        self.bars = LadderBars()
        self.bars.setToolTip(DEFINITIONS["ladder"])
        self.headline, self.figures = Steady(), Steady()
        self.figures.setToolTip(DEFINITIONS["ladder"])
        self.pick = Note()
        self.pick.setAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
        self.pick.setMaximumWidth(PICK_WIDTH)
        self.pick.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Preferred)
        self.set_aside = QPushButton("Set aside…")
        self.set_aside.setToolTip("Take the picked samples out of every model, with a reason (Del)")
        self.tag = QPushButton("Tag…")
        self.tag.setToolTip("Give the picked samples a class (T)")
        self.set_aside.clicked.connect(self.set_aside_requested)
        self.tag.clicked.connect(self.tag_requested)
        self.own = QWidget()
        inside = QHBoxLayout(self.own)
        inside.setContentsMargins(0, 0, 0, 0)
        inside.setSpacing(12)
        inside.addWidget(self.bars, 10)
        inside.addLayout(told_column(self.headline, self.figures))
        inside.addStretch(1)
        self._instead: QWidget | None = None
        self._of: tuple[Evaluation | None, Checked | None] | None = None
        layout = QHBoxLayout(self)
        layout.setContentsMargins(TRAIL_WIDTH + 8, 0, 10, 0)
        layout.setSpacing(12)
        layout.addWidget(self.own, 1)
        self._place = layout
        for widget in (self.pick, self.set_aside, self.tag):
            layout.addWidget(widget)
        self.bars.moving.connect(partial(preview_components, desk))
        self.bars.moved.connect(partial(keep_components, desk))
        follow_live(self, desk, self.refresh)
        follow(self, desk.study, lambda changed: self.show_pick())
        follow(self, desk.selection, self._on_selection)
        self.refresh()

    def stand_in(self, widget: QWidget | None) -> None:
        """Something in place of the ladder, or the ladder again."""
        if widget is self._instead:
            return
        if self._instead is not None:
            self._instead.hide()
        self._instead = widget
        if widget is not None:
            if widget.parent() is not self:
                self._place.insertWidget(0, widget, 1)
            widget.show()
        self.own.setVisible(widget is None)

    def refresh(self) -> None:
        """Show the live model and the pick."""
        of = self.desk.moment.found, self.desk.moment.checked
        if of != self._of:
            self._of = of
            self._show_ladder(ladder(*of))
        self.show_pick()

    def _show_ladder(self, found: Ladder | None) -> None:
        self.bars.show_ladder(found)
        told = "" if found is None else found.told
        self.bars.setToolTip(f"{DEFINITIONS['ladder']}\n\n{told}".strip())
        self.bars.setVisible(found is not None)
        if found is None:
            self.headline.setText("")
            self.figures.setText("")
        else:
            kept = "component" if found.rank == 1 else "components"
            self.headline.setText(f"{found.kept} of {found.rank} {kept} kept")
            self.figures.setText(found.text)

    def show_pick(self) -> None:
        """Name the picked samples, as many as there is room for."""
        table = self.desk.study.state.table
        picked = self.desk.selection.look.picked if table is not None else ()
        for button in (self.set_aside, self.tag):
            button.setEnabled(bool(picked))
        if table is None:
            self.pick.setText("")
        elif not picked:
            self.pick.setText("nothing picked")
        else:
            names = ", ".join(table.ids[row] for row in picked[:NAMED])
            self.pick.setText(f"{counted(picked)} picked: {names}{' …' if len(picked) > NAMED else ''}")

    def step(self, by: int) -> None:
        """One component more or fewer, from the keyboard."""
        found = self.bars.ladder
        if found is not None and 1 <= found.kept + by <= found.rank:
            keep_components(self.desk, found.kept + by)

    def _on_selection(self, changed: frozenset[str]) -> None:
        if "picked" in changed:
            self.show_pick()
