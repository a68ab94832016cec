"""Why the picked samples are far: the channels with the largest shares, as a list to click."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QGridLayout, QPushButton, QWidget

from scutcher.charts.words import significant, with_minus
from scutcher.core.distances.contributions import means_of_groups, normal_band, q_shares, t2_shares
from scutcher.core.validation.segments import group_codes
from scutcher.core.words import shown
from scutcher.desk.context import Desk
from scutcher.desk.widgets.combo import Combo
from scutcher.desk.widgets.figures_table import FiguresTable
from scutcher.desk.widgets.popover import Popover
from scutcher.desk.words import Words
from scutcher.study.evaluation.evaluation import Evaluation
from scutcher.study.evaluation.stability import degrees_of

SHOWN, MOST_LEVELS = 12, 12
WIDE, AIR = 238, 10  # pixels: over the trail and the figures of the axes, not over the strips it speaks of
ALL = "all other samples"
KINDS = {"share of Q": q_shares, "share of T²": t2_shares}


def _percent(value: float) -> str:
    """With as many digits as are read: two decimals below one, else one."""
    return with_minus(shown(value, ".2f") if abs(value) < 1.0 else shown(value, ".1f"))


def _times(value: float) -> str:
    """A multiple of the end of the normal range; there is none where that is zero."""
    return "∞" if np.isinf(value) else shown(value, ".1f") if value < 10.0 else f"{value:.0f}"


def _place_words(place: int) -> str:
    return "the most" if place == 1 else f"place {place}"


class Why(Popover):
    """Shares of the mean of the pick against all other samples, the pick before it, or any class.

    Opens on the distance that is farthest past its limit.
    """

    def __init__(self, window: QWidget, desk: Desk, found: Evaluation, rows: list[int]) -> None:
        names = ", ".join(found.treated.ids[row] for row in rows[:4])
        super().__init__(window, f"Why: {names}{' …' if len(rows) > 4 else ''}")
        self.desk, self.found, self.rows = desk, found, rows
        self.kind, self.against = Combo(), Combo()
        self.kind.addItems(list(KINDS))
        self.kind.setCurrentIndex(int(self._past("t2") > self._past("q")))
        self.references = self._groups()
        self.against.addItems(list(self.references))
        for box in (self.kind, self.against):
            box.activated.connect(lambda place: self.refresh())
        choices = QGridLayout()
        choices.setColumnStretch(1, 1)
        for row, (word, box) in enumerate((("of", self.kind), ("against", self.against))):
            box.setMinimumContentsLength(10)
            box.setSizeAdjustPolicy(Combo.SizeAdjustPolicy.AdjustToMinimumContentsLengthWithIcon)
            choices.addWidget(Words(word), row, 0)
            choices.addWidget(box, row, 1)
        self.table = FiguresTable(["channel", "share / %", "× normal"], figures=(1, 2))
        self.table.setFixedSize(WIDE, 290)
        for at, words in ((1, "Of the whole distance"), (2, "Over the end of the 2.5–97.5 % range there")):
            heading = self.table.horizontalHeaderItem(at)
            assert heading is not None
            heading.setToolTip(words)
        self.setFixedWidth(WIDE + 2 * AIR)
        self.column.setContentsMargins(AIR, AIR, AIR, AIR)
        self.table.itemSelectionChanged.connect(self._point)
        self.note = Words()
        self.note.setObjectName("quiet")
        self.note.setWordWrap(True)
        close = QPushButton("Close")
        close.clicked.connect(self.dismiss)
        self.column.addLayout(choices)
        self.column.addWidget(self.table)
        self.column.addWidget(self.note)
        self.column.addWidget(close, 0, Qt.AlignmentFlag.AlignRight)
        self.refresh()

    def refresh(self) -> None:
        """Compute the shares anew."""
        found, shares_of = self.found, KINDS[self.kind.currentText()]
        reference = np.array(self.references[self.against.currentText()], dtype=np.intp)
        pick = found.scaled.rows(np.array(self.rows)).mean(axis=0)
        normal = found.scaled.rows(reference)
        base = normal.mean(axis=0)
        shares = shares_of((pick - base)[np.newaxis, :], found.model)[0]
        codes = group_codes(found.part)
        groups = len(np.unique(codes[self.rows]))
        alike = means_of_groups(normal, len(self.rows), codes[reference], groups)
        band = normal_band(shares_of(alike - base, found.model))
        order = found.treated.axis.apart(np.argsort(-np.abs(shares)), 60, SHOWN)
        axis, whole = found.treated.axis, float(np.abs(shares).sum()) or 1.0
        ends = np.where(shares > 0.0, band.high, band.low)
        times = np.divide(shares, ends, out=np.full(len(ends), np.inf), where=shares * ends > 0.0)
        self.table.show_rows(
            (axis.name(column), _percent(100.0 * shares[column] / whole), _times(times[column]))
            for column in order
        )
        for place, column in enumerate(order):
            for at in range(self.table.columnCount()):
                self.table.cell(place, at).setData(Qt.ItemDataRole.UserRole, float(axis.places()[column]))
        beyond = int(((shares > band.high) | (shares < band.low)).sum())
        self.note.setText(
            f"{beyond} of {len(shares)} channels lie outside the 2.5–97.5 % range of {self._of_what()}. "
            f"A row moves the channel cursor.{self._turn()}"
        )
        self.note.setFixedHeight(self.note.heightForWidth(WIDE))
        self.adjustSize()

    def _turn(self) -> str:
        """How far the model turns without the pick's groups, where that is known."""
        moment = self.desk.moment
        degrees = degrees_of(self.found, moment.checked) if moment.found is self.found else None
        if degrees is None:
            return ""
        every = degrees[self.found.usable.rows]
        picked = np.nan_to_num(every[self.rows], nan=-1.0)
        most = self.rows[int(picked.argmax())]
        if picked.max() < 0.0:
            return ""
        codes = group_codes(self.found.part)
        alike = np.flatnonzero(codes == codes[most])
        of_groups = every[np.unique(codes, return_index=True)[1]]
        place = int((of_groups > every[most]).sum()) + 1
        name = self.found.treated.ids[most] if len(alike) == 1 else (self.found.part.replicates or ())[most]
        return (
            f"\n\nWithout {name} the model turns by {significant(float(every[most]), 2)}°, "
            f"{_place_words(place)} of {len(of_groups)}."
        )

    def _of_what(self) -> str:
        count = len(self.rows)
        return "the reference" if count == 1 else f"groups of {count} from the reference"

    def _past(self, which: str) -> float:
        """How far the pick is past a limit, as a multiple; nothing where there is no limit."""
        model = self.found.model
        distances, limit = (model.t2, model.t2_limit) if which == "t2" else (model.q, model.q_limit)
        return float(distances[self.rows].mean()) / limit.value if limit.value else 0.0

    def _groups(self) -> dict[str, list[int]]:
        """What the pick can be held against: rows of the model by words, those of the pick left out."""
        treated, look = self.found.treated, self.desk.selection.look
        groups = {ALL: list(range(self.found.scaled.shape[0]))}
        places = self.found.places()
        former = [places[row] for row in look.before if row in places]
        if former:
            names = ", ".join(treated.ids[row] for row in former[:2])
            groups[f"the pick before ({names}{' …' if len(former) > 2 else ''})"] = former
        coloured_first = sorted(treated.classes, key=lambda c: c.name != self.desk.study.state.colour_by)
        for column in (c for c in coloured_first if len(c.names) <= MOST_LEVELS):
            for level in column.names:
                groups[f"{column.name}: {level}"] = [
                    row for row, value in enumerate(column.values) if value == level
                ]
        apart = {words: [row for row in rows if row not in self.rows] for words, rows in groups.items()}
        return {words: rows for words, rows in apart.items() if rows} or groups

    def _point(self) -> None:
        chosen = self.table.selectedItems()
        if chosen:
            self.desk.selection.change(channel=chosen[0].data(Qt.ItemDataRole.UserRole))
