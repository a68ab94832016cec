"""What a step did, as a small table: each figure before and after, and by how much."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import QPointF, QSize, Qt
from PySide6.QtGui import QColor, QPainter, QPaintEvent, QPen
from PySide6.QtWidgets import QGridLayout, QSizePolicy, QWidget

from scutcher.charts import colours
from scutcher.charts.definitions import DEFINITIONS
from scutcher.charts.words import with_minus
from scutcher.core.arrays import Floats, Integers, distinct
from scutcher.core.words import shown
from scutcher.desk.guard import guarded
from scutcher.desk.painting.marks_item import apart
from scutcher.desk.painting.painters import paint_frame
from scutcher.desk.words import Words
from scutcher.study.evaluation.step_effects import Effect

NAMES = {
    "separation": "classes apart, held out",
    "replicates": "replicate spread",
    "noise": "share of noise",
    "q2": "Q² held out",
}


WIDTHS = 50, 66, 66
"""Of before, after and by how much, in pixels: they stay while figures come in."""


class EffectsTable(QWidget):
    """Rows of figures; absent where the data do not have them."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self._grid = QGridLayout(self)
        self._grid.setContentsMargins(10, 0, 10, 6)
        self._grid.setHorizontalSpacing(8)
        self._grid.setVerticalSpacing(3)
        self._grid.setColumnStretch(0, 1)
        for column, width in enumerate(WIDTHS, start=1):
            self._grid.setColumnMinimumWidth(column, width)
        self.rows: dict[str, tuple[Words, Words, Words, Words]] = {}
        for place, key in enumerate(NAMES):
            row = (Words(NAMES[key]), Words(), Words(), Words())
            for column, label in enumerate(row):
                label.setToolTip(DEFINITIONS[f"effect_{key}"])
                if column:
                    label.setAlignment(Qt.AlignmentFlag.AlignRight)
                self._grid.addWidget(label, place, column)
            row[1].setObjectName("quiet")
            row[2].setObjectName("strong")
            self.rows[key] = row
        self.dots = DotRow()
        self.dots_name = Words()
        self.dots_name.setObjectName("quiet")
        self._grid.addWidget(self.dots_name, len(NAMES), 0, 1, 4)
        self._grid.addWidget(self.dots, len(NAMES) + 1, 0, 1, 4)

    def show_effects(self, effects: tuple[Effect, ...], waiting: frozenset[str]) -> None:
        """Put figures in; `waiting` names those that are still being computed."""
        known = {effect.key: effect for effect in effects}
        for key, row in self.rows.items():
            effect = known.get(key)
            due = effect is not None or key in waiting
            for label in row:
                label.setVisible(due)
            if not due:
                continue
            if effect is not None and effect.chance is not None:
                words = f"{DEFINITIONS[f'effect_{key}']} Here that is {shown(effect.chance, '.3f')}."
                for label in row:
                    label.setToolTip(words)
            before = None if effect is None else effect.before
            after = None if effect is None else effect.after
            row[1].setText(figure(key, before, key in waiting))
            row[2].setText(f"→ {figure(key, after, key in waiting)}")
            row[3].show_rich(self._change(key, before, after, 0 if effect is None else effect.better))

    def _change(self, key: str, before: float | None, after: float | None, better: int) -> str:
        if before is None or after is None:
            return ""
        change = after - before
        if abs(change) < 5e-4:
            return f'<span style="color:{colours.MUTED}">=</span>'
        good = (change > 0) == (better > 0)
        colour = colours.BETTER if good else colours.ALARM
        arrow = "▲" if change > 0 else "▼"
        return f'<span style="color:{colour}">{arrow} {figure(key, abs(change), False)}</span>'

    def show_dots(self, values: Floats | None, codes: Integers, name: str) -> None:
        """A figure of each sample, in order."""
        for widget in (self.dots, self.dots_name):
            widget.setVisible(values is not None)
        if values is not None:
            low, high = float(np.nanmin(values)), float(np.nanmax(values))
            self.dots_name.setText(
                f"{name}: {with_minus(shown(low, '.3g'))} to {with_minus(shown(high, '.3g'))}"
            )
            self.dots.show_values(values, codes)


def figure(key: str, value: float | None, waiting: bool) -> str:
    """A figure as it stands in the table."""
    if value is None:
        return "…" if waiting else "–"
    return f"{shown(100.0 * value, '.2f')} %" if key == "noise" else with_minus(shown(value, ".3f"))


MANY, DOT = 2_000, 4.0
"""Dots from which those that would be covered are left out, and pixels of each."""


class DotRow(QWidget):
    """A dot for each sample, in order, at the height of its figure."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.values: Floats = np.empty(0)
        self._codes: Integers = np.empty(0, dtype=np.intp)
        self.setFixedHeight(46)
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)

    def sizeHint(self) -> QSize:
        """Low and wide."""
        return QSize(200, 46)

    def show_values(self, values: Floats, codes: Integers) -> None:
        """Put other figures in."""
        self.values, self._codes = values, codes
        self.update()

    @guarded
    def paintEvent(self, event: QPaintEvent) -> None:
        """A frame and the dots."""
        painter = QPainter(self)
        frame = paint_frame(painter, self)
        if not np.isfinite(self.values).any():
            return
        area = frame.adjusted(4, 4, -4, -4)
        low, high = float(np.nanmin(self.values)), float(np.nanmax(self.values))
        span = high - low or 1.0
        x = np.linspace(area.left(), area.right(), len(self.values))
        y: Floats = (low - self.values) * (area.height() / span) + area.bottom()
        places = np.flatnonzero(np.isfinite(y))
        if len(places) > MANY:
            _put_many(painter, x, y, self._codes, apart(x, y, places, 1.0, MANY))
            return
        painter.setPen(Qt.PenStyle.NoPen)
        for place in places.tolist():
            painter.setBrush(QColor(colours.class_colour(int(self._codes[place]))))
            painter.drawEllipse(QPointF(x[place], y[place]), DOT / 2.0, DOT / 2.0)


def _put_many(painter: QPainter, x: Floats, y: Floats, codes: Integers, places: Integers) -> None:
    """Dots, class by class."""
    for code in distinct(codes[places]).tolist():
        own = places[codes[places] == code]
        painter.setPen(QPen(QColor(colours.class_colour(code)), DOT, c=Qt.PenCapStyle.RoundCap))
        painter.drawPoints([QPointF(*at) for at in zip(x[own].tolist(), y[own].tolist(), strict=True)])
