"""The first knot: the data, how they were read, and what no model sees of them."""

from __future__ import annotations

from PySide6.QtCore import Qt

from scutcher.charts.description import Lines
from scutcher.charts.emphasis import colouring_of
from scutcher.core.data.origin import Origin
from scutcher.core.words import count_of, shown
from scutcher.desk.context import Desk
from scutcher.desk.trail.knot import Knot, link

ROOM = 162  # pixels for a line beside the thread


class DataKnot(Knot):
    """With links to the samples set aside, to the remarks on reading and to the columns of the file."""

    def __init__(self, desk: Desk) -> None:
        super().__init__()
        self.desk = desk
        self.first = True
        self.set_aside_link = link("", "Samples that no model sees, each with its reason")
        self.read_link = link("", "")
        self.columns_link = link("columns…", "What each column of the file is (I)")
        for place, below in ((2, self.set_aside_link), (3, self.read_link)):
            below.setObjectName("flush")
            self.body.insertWidget(place, below, 0, Qt.AlignmentFlag.AlignLeft)
        self.words.addWidget(self.columns_link)

    def refresh(self, picture: Lines | None) -> None:
        """As the study is now; there are data in it."""
        state = self.desk.study.state
        assert state.table is not None
        n, p = state.table.shape
        classes = len(colouring_of(state).named())
        small = f"{shown(n, ',')} × {shown(p, ',')}" + (f" · {count_of(classes, 'class')}" if classes else "")
        self.describe(state.table.name, small, picture)
        self.columns_link.setVisible(bool(state.source.paths))
        self._describe_reading(state.table.origin)
        left = self._not_in_model()
        self.set_aside_link.setText(left)
        self.set_aside_link.setVisible(bool(left))

    def _describe_reading(self, origin: Origin) -> None:
        """One quiet line: how the file was read, or how much of it was not."""
        remarks = origin.remarks
        words = f"{count_of(remarks, 'remark')} on reading it…" if remarks else f"read: {origin.words}"
        fits = self.read_link.fontMetrics().elidedText(words, Qt.TextElideMode.ElideRight, ROOM)
        self.read_link.setText(fits)
        told = "\n".join(f"· {remark}" for remark in remarks)
        self.read_link.setToolTip(
            f"{origin.words}\n{told}\n\nClick to see the file and to read it otherwise (I)"
        )
        self.read_link.setVisible(bool(origin.words) and bool(self.desk.study.state.source.paths))

    def _not_in_model(self) -> str:
        state, found = self.desk.study.state, self.desk.moment.found
        assert state.table is not None
        aside = len(state.table.set_aside)
        away = f"{shown(aside, ',')} set aside"
        parts = [away] if aside else []
        if found is not None:
            gaps = len(found.usable.left_out_rows) - aside
            columns = len(found.usable.left_out_columns)
            kind = "channel" if state.table.axis.ordered else "variable"
            parts += [f"{shown(gaps, ',')} with gaps"] if gaps > 0 else []
            parts += [f"{count_of(columns, kind)} left out"] if columns else []
        if len(parts) > 2:  # all of it does not fit beside the thread
            many = f"{kind}s"[:8]
            parts = [away, f"{shown(gaps, ',')} gaps", f"{shown(columns, ',')} {many}"]
        return " · ".join(parts)
