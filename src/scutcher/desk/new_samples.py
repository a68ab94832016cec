"""New samples on the model: which belong, which do not, and why not."""

from __future__ import annotations

from PySide6.QtCore import Qt
from PySide6.QtGui import QColor
from PySide6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QTableWidget, QTableWidgetItem, QWidget

from scutcher.charts import colours
from scutcher.desk.panel import quiet_table
from scutcher.desk.popover import Popover
from scutcher.study.newcomers import Newcomers


class NewSamples(Popover):
    """The list; the marks stand hollow on the planes until they are sent away."""

    def __init__(self, window: QWidget, new: Newcomers, send_away: object) -> None:
        super().__init__(window, f"New samples: {new.table.name}")
        count = len(new.found.rows)
        strangers = [row for row in range(count) if not new.belongs(row)]
        words = QLabel(
            f"{count - len(strangers)} belong, {len(strangers)} do not. Limits for new samples: "
            f"T² {_limit(new.model.t2_limit.value)} (F), Q {_limit(new.model.q_limit.value)}."
        )
        words.setObjectName("quiet")
        order = strangers + [row for row in range(count) if new.belongs(row)]
        self.table = QTableWidget(count + len(new.found.refused), 5)
        quiet_table(self.table)
        self.table.setHorizontalHeaderLabels(["sample", "T²", "Q", "belongs", "why not"])
        self.table.setEditTriggers(QTableWidget.EditTrigger.NoEditTriggers)
        for place, row in enumerate(order):
            belongs = new.belongs(row)
            cells = (
                new.found.table.ids[row],
                f"{new.found.t2[row]:.3g}",
                f"{new.found.q[row]:.3g}",
                "yes" if belongs else "no",
                new.reasons(row),
            )
            for column, text in enumerate(cells):
                cell = QTableWidgetItem(text)
                cell.setToolTip(text)
                if column in (1, 2):
                    cell.setTextAlignment(Qt.AlignmentFlag.AlignRight | Qt.AlignmentFlag.AlignVCenter)
                if not belongs:
                    cell.setForeground(QColor(colours.ALARM))
                self.table.setItem(place, column, cell)
        for place, (row, reason) in enumerate(sorted(new.found.refused.items()), start=count):
            for column, text in ((0, new.table.ids[row]), (3, "–"), (4, reason)):
                self.table.setItem(place, column, QTableWidgetItem(text))
        self.table.resizeColumnsToContents()
        self.table.setFixedSize(640, min(60 + 23 * self.table.rowCount(), 360))
        away, close = QPushButton("Send them away"), QPushButton("Close")
        away.setToolTip("Take the new samples off the planes")
        away.clicked.connect(lambda: (send_away(), self.dismiss()))  # type: ignore[operator]
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


def _limit(value: float | None) -> str:
    return "undefined" if value is None else f"{value:.3g}"
