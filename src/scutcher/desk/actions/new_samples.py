"""New samples on the model: which belong, which do not, and why not."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import Qt
from PySide6.QtGui import QColor
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QWidget

from scutcher.charts import colours
from scutcher.core.progress import Watch
from scutcher.core.words import counted, shown
from scutcher.desk.actions.outcome import ask_path, write_behind
from scutcher.desk.context import Desk
from scutcher.desk.widgets.figures_table import FiguresTable
from scutcher.desk.widgets.popover import Popover
from scutcher.desk.words import Words
from scutcher.files.writing import write_numbers
from scutcher.study.evaluation.new_samples import Newcomers


class NewSamples(Popover):
    """The list; the marks stand hollow on the planes until they are sent away."""

    def __init__(self, window: QWidget, desk: Desk, new: Newcomers) -> None:
        super().__init__(window, f"New samples: {new.table.name}")
        self._new, self._desk, self._moment = new, desk, desk.moment
        count = len(new.found.rows)
        strangers = [row for row in range(count) if not new.belongs(row)]
        words = Words(
            f"{counted(count - len(strangers))} belong, {counted(strangers)} do not. Limits for new samples: "
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
        away.clicked.connect(lambda: self._choose(lambda: desk.live.bring(None)))
        close.clicked.connect(self.dismiss)
        row_of = QHBoxLayout()
        write = QPushButton("Write them…")
        write.setToolTip("All numbers as CSV or XLSX; verdicts, reasons and figures as a report: HTML or PDF")
        write.clicked.connect(self._ask)
        row_of.addWidget(write)
        row_of.addStretch(1)
        row_of.addWidget(away)
        row_of.addWidget(close)
        for note in (words, *(Words(text) for text in new.found.notes)):
            self.column.addWidget(note)
        self.column.addWidget(self.table)
        self.column.addLayout(row_of)
        self.setFocusPolicy(Qt.FocusPolicy.StrongFocus)

    def _ask(self) -> None:
        kinds = "CSV (*.csv);;XLSX (*.xlsx);;Report, HTML (*.html);;Report, PDF (*.pdf)"
        ask_path(self.over, "Write the new samples", "new samples.csv", kinds, self.write)

    def write(self, path: Path) -> None:
        """Write every new sample with its verdict, distances, scores and reasons; behind, by the ending."""
        new, state, found = self._new, self._moment.state, self._moment.found

        def work(watch: Watch) -> None:
            from scutcher.charts.report.new_samples import new_samples_document
            from scutcher.charts.report.writing import write_document

            if found is not None and path.suffix.lower() in (".html", ".pdf"):
                write_document(new_samples_document(state, found, new), path, watch)
            else:
                write_numbers(*new.rows(), path)

        write_behind(self._desk, "The new samples are", path, work)


def _cells(new: Newcomers, row: int) -> tuple[str, float, float]:
    found = new.found
    return found.table.ids[row], float(found.t2[row]), float(found.q[row])


def _limit(value: float | None) -> str:
    return "undefined" if value is None else shown(value, ".3g")
