"""The card of one trial: its scores drawn small, its figures, and what can be done with it."""

from __future__ import annotations

from PySide6.QtCore import QSize, Qt, Signal
from PySide6.QtGui import QColor, QPainter, QPaintEvent
from PySide6.QtWidgets import (
    QFrame,
    QHBoxLayout,
    QToolButton,
    QVBoxLayout,
    QWidget,
)

from scutcher.charts import colours
from scutcher.charts.words import with_minus
from scutcher.core.words import shown
from scutcher.desk.guard import guarded
from scutcher.desk.painting.painters import paint_frame
from scutcher.desk.trail.shelf import paint_plane
from scutcher.desk.words import Words
from scutcher.study.evaluation.recipe_trials import Outcome

CARD = QSize(254, 214)
FIGURES = (("separation", "apart"), ("q2", "Q²"), ("replicates", "repl."))


class Plane(QWidget):
    """The score plane of an outcome, or why there is none."""

    def __init__(self, outcome: Outcome, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.outcome = outcome
        self.setFixedHeight(118)

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        """Frame and dots, or words."""
        painter = QPainter(self)
        frame = paint_frame(painter, self)
        if self.outcome.model is not None:
            paint_plane(painter, frame.adjusted(6, 6, -6, -6), self.outcome.model, 1.9)
            return
        painter.setPen(QColor(colours.ALARM))
        flags = Qt.AlignmentFlag.AlignCenter | Qt.TextFlag.TextWordWrap
        painter.drawText(frame.adjusted(8, 4, -8, -4), flags, self.outcome.reason)


class Card(QFrame):
    """One outcome: name, plane, figures, and where it can go."""

    shelf_clicked = Signal()
    trail_clicked = Signal()

    def __init__(self, outcome: Outcome, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("panel")
        self.setFixedSize(CARD)
        self.outcome = outcome
        name = Words(outcome.name)
        name.setObjectName("title")
        self.plane = Plane(outcome)
        self.figures = Words(figures_line(outcome))
        self.figures.setObjectName("quiet")
        self.figures.setToolTip(
            "apart: held-out neighbour of the same class, on the scores · Q²: held out, with the components "
            "kept · repl.: replicate spread over all spread"
        )
        same = Words("" if not outcome.same_as else f"the same: {', '.join(outcome.same_as)}")
        same.setObjectName("quiet")
        same.setToolTip(same.text())
        shelf, trail = QToolButton(), QToolButton()
        shelf.setText("to the shelf")
        trail.setText("take it")
        shelf.setToolTip("Put this model by on the shelf")
        trail.setToolTip("Put these treatments on the trail, in place of those there")
        shelf.clicked.connect(self.shelf_clicked)
        trail.clicked.connect(self.trail_clicked)
        shelf.setEnabled(outcome.model is not None)
        trail.setEnabled(outcome.model is not None)
        self.shelf, self.trail = shelf, trail
        row = QHBoxLayout()
        row.setContentsMargins(0, 0, 0, 0)
        row.addWidget(same, 1)
        row.addWidget(shelf)
        row.addWidget(trail)
        column = QVBoxLayout(self)
        column.setContentsMargins(8, 6, 8, 4)
        column.setSpacing(3)
        for widget in (name, self.plane, self.figures):
            column.addWidget(widget)
        column.addLayout(row)


def figures_line(outcome: Outcome) -> str:
    """`apart 0.85 · Q² 0.67 · repl. 0.37 · R² 0.97`."""
    if outcome.model is None:
        return "no model"
    parts = [
        f"{word} {with_minus(shown(value, '.3f'))}"
        for key, word in FIGURES
        for value in [outcome.model.figure(key)]
        if value is not None
    ]
    return " · ".join(parts)
