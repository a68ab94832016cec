"""New samples on the model: which belong, which do not, and why not."""

from __future__ import annotations

from collections.abc import Callable

from PySide6.QtCore import Qt
from PySide6.QtGui import QColor
from PySide6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QWidget

from scutcher.charts import colours
from scutcher.charts.words import significant
from scutcher.desk.widgets.figures_table import FiguresTable
from scutcher.desk.widgets.popover import Popover
from scutcher.study.evaluation.new_samples import Newcomers


class NewSamples(Popover):
    """The list; the marks stand hollow on the planes until they are sent away."""

    def __init__(self, window: QWidget, new: Newcomers, send_away: Callable[[], object]) -> None:
        super().__init__(window, f"New samples: {new.table.name}")
        count = len(new.found.rows)
        strangers = [row for row in range(count) if not new.belongs(row)]
        words = QLabel(
            f"{count - len(strangers)} belong, {len(strangers)} do not. Limits for new samples: "
            f"T² {_limit(new.model.t2_limit.value)} (F), Q {_limit(new.model.q_limit.value)}."
        )
        words.setObjectName("quiet")
        order = strangers + [row for row in range(count) if new.belongs(row)]
        self.table = FiguresTable(["sample", "T²", "Q", "belongs", "why not"], figures=(1, 2))
        self.table.show_rows(
            [
                *(
                    (*_cells(new, row), "yes" if new.belongs(row) else "no", new.reasons(row))
                    for row in order
                ),
                *((new.table.ids[row], "", "", "–", why) for row, why in sorted(new.found.refused.items())),
            ]
        )
        for place in range(len(strangers)):
            for column in range(self.table.columnCount()):
                self.table.cell(place, column).setForeground(QColor(colours.ALARM))
        self.table.setFixedSize(640, min(60 + 23 * self.table.rowCount(), 360))
        away, close = QPushButton("Send them away"), QPushButton("Close")
        away.setToolTip("Take the new samples off the planes")
        away.clicked.connect(lambda: self._choose(send_away))
        close.clicked.connect(self.dismiss)
        row_of = QHBoxLayout()
        row_of.addStretch(1)
        row_of.addWidget(away)
        row_of.addWidget(close)
        for note in (words, *(QLabel(text) for text in new.found.notes)):
            self.column.addWidget(note)
        self.column.addWidget(self.table)
        self.column.addLayout(row_of)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)


def _cells(new: Newcomers, row: int) -> tuple[str, str, str]:
    found = new.found
    return found.table.ids[row], significant(found.t2[row], 3), significant(found.q[row], 3)


def _limit(value: float | None) -> str:
    return "undefined" if value is None else f"{value:.3g}"
