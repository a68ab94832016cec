"""Centring and scaling: the two choices, and a table of each variable's spread before and after."""

from __future__ import annotations

from typing import Any

import numpy as np
from msgspec.structs import replace
from PySide6.QtCore import QAbstractTableModel, QModelIndex, QPersistentModelIndex, QSignalBlocker, Qt
from PySide6.QtWidgets import (
    QFrame,
    QHBoxLayout,
    QHeaderView,
    QPushButton,
    QSizePolicy,
    QTableView,
    QVBoxLayout,
    QWidget,
)

from scutcher.charts.words import significant
from scutcher.core.arrays import Floats
from scutcher.core.groups.class_statistics import class_statistics
from scutcher.core.recipes.recipe import Block, ScaleSettings
from scutcher.core.words import count_of
from scutcher.desk.context import Desk
from scutcher.desk.kept_behind import Behind
from scutcher.desk.widgets.combo import Combo
from scutcher.desk.widgets.figures_table import alignment
from scutcher.desk.widgets.panel import quiet_table
from scutcher.desk.words import Words
from scutcher.study.document.commands.recipe import ScaleBy
from scutcher.study.evaluation.evaluation import Evaluation

LEAST = 96
"""Pixels of the table of spreads, where there is little room."""

CENTRES = {"mean": "by the mean", "median": "by the median", "none": "not centred"}
SCALES = {
    "none": "not scaled",
    "sd": "each to SD 1",
    "pareto": "by √SD (Pareto)",
    "range": "by the range",
    "level": "by the mean (level)",
    "mad": "by MAD × 1.4826",
    "sqrt-mean": "by √mean (counting noise)",
}
Index = QModelIndex | QPersistentModelIndex
HEADERS = ("variable", "SD before", "SD after", "scaled")
WIDTHS = 86, 80, 64  # pixels of all but the first


Spreads = tuple[Floats, Floats]

AT_ONCE = 3_000_000
"""Values up to which their spreads take less than a frame."""


def spreads_of(found: Evaluation) -> Spreads:
    """The standard deviation (n − 1) of each variable before and after scaling, (p,) twice."""
    before, after = (
        class_statistics(values, np.zeros(len(values), dtype=np.intp))[2][0]
        for values in (found.treated.values, found.z)
    )
    return before, after


class SpreadTable(QAbstractTableModel):
    """A row for each variable."""

    def __init__(self, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.labels: tuple[str, ...] = ()
        self.before = self.after = np.empty(0)
        self.off: frozenset[str] = frozenset()

    def show_evaluation(self, found: Evaluation, spreads: Spreads | None) -> None:
        """The spreads of now; None while they are computed."""
        self.beginResetModel()
        self.labels = found.treated.axis.labels
        unknown = np.full(len(self.labels), np.nan)
        self.before, self.after = spreads or (unknown, unknown)
        self.off = frozenset(found.scaling.off)
        self.endResetModel()

    def rowCount(self, parent: Index = QModelIndex()) -> int:  # noqa: B008
        """One for each variable."""
        return len(self.labels)

    def columnCount(self, parent: Index = QModelIndex()) -> int:  # noqa: B008
        """Name, two spreads, the switch."""
        return len(HEADERS)

    def headerData(self, section: int, orientation: Qt.Orientation, role: int = 0) -> Any:
        """The headers, over their columns as the cells stand in them."""
        if role == Qt.ItemDataRole.TextAlignmentRole:
            return int(alignment(section in (1, 2)))
        return HEADERS[section] if role == Qt.ItemDataRole.DisplayRole else None

    def data(self, index: Index, role: int = 0) -> Any:
        """A cell."""
        row, column = index.row(), index.column()
        if role == Qt.ItemDataRole.TextAlignmentRole and column in (1, 2):
            return int(alignment(True))
        if role == Qt.ItemDataRole.CheckStateRole and column == 3:
            return Qt.CheckState.Unchecked if self.labels[row] in self.off else Qt.CheckState.Checked
        if role != Qt.ItemDataRole.DisplayRole:
            return None
        if column in (1, 2):
            value = (self.before, self.after)[column - 1][row]
            return significant(value) if np.isfinite(value) else "…"
        return self.labels[row] if column == 0 else ""

    def flags(self, index: Index) -> Qt.ItemFlag:
        """The switch can be clicked."""
        found = super().flags(index)
        return found | Qt.ItemFlag.ItemIsUserCheckable if index.column() == 3 else found


class ScalingPanel(QFrame):
    """Choices above, table below; acts at once."""

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.setObjectName("panel")
        self.desk = desk
        self._now = ScaleSettings()
        self._found: Evaluation | None = None
        self._spreads = Behind[Spreads](desk, "spreads", self._show_spreads)
        title = Words("Centre and scale")
        title.setObjectName("strong")
        self.note = Words()
        self.note.setObjectName("quiet")
        self.note.setWordWrap(True)
        self.centre, self.method = Combo(), Combo()
        for box, words in ((self.centre, CENTRES), (self.method, SCALES)):
            box.addItems(list(words.values()))
        self.centre.activated.connect(lambda place: self._change(centre=list(CENTRES)[place]))
        self.method.activated.connect(lambda place: self._change(method=list(SCALES)[place]))
        choices = QHBoxLayout()
        for word, box in (("centre", self.centre), ("scale", self.method)):
            choices.addWidget(Words(word))
            choices.addWidget(box, 1)
        self.table = QTableView()
        self.model = SpreadTable(self)
        self.table.setModel(self.model)
        quiet_table(self.table)
        self.table.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Ignored)
        self.table.setMinimumHeight(LEAST)
        header = self.table.horizontalHeader()
        header.setStretchLastSection(False)
        header.setSectionResizeMode(0, QHeaderView.ResizeMode.Stretch)
        for place, width in enumerate(WIDTHS, start=1):
            header.resizeSection(place, width)
        self.table.clicked.connect(self._on_clicked)
        self.all_on, self.all_off = QPushButton("all on"), QPushButton("picked rows off")
        self.block = QPushButton("rows as one block")
        self.all_on.setToolTip("Scale every variable, and drop blocks")
        self.all_off.setToolTip("Centre the chosen rows, but do not scale them")
        self.block.setToolTip("Weight the chosen rows together so that their variances sum to one")
        self.all_on.clicked.connect(lambda: self._change(off=(), blocks=(), weights=()))
        self.all_off.clicked.connect(self._chosen_off)
        self.block.clicked.connect(self._chosen_block)
        buttons = QHBoxLayout()
        for button in (self.all_on, self.all_off, self.block):
            buttons.addWidget(button)
        buttons.addStretch(1)
        column = QVBoxLayout(self)
        column.setContentsMargins(10, 7, 10, 8)
        column.setSpacing(5)
        column.addWidget(title)
        column.addLayout(choices)
        column.addWidget(self.note)
        column.addWidget(self.table, 1)
        column.addLayout(buttons)

    def refresh(self, found: Evaluation) -> None:
        """Show the scaling of an evaluation."""
        self._now = found.scaling
        for box, words, value in (
            (self.centre, CENTRES, self._now.centre),
            (self.method, SCALES, self._now.method),
        ):
            with QSignalBlocker(box):
                box.setCurrentIndex(list(words).index(value))
        kind = "an ordered axis: scaling would raise noise" if found.treated.axis.ordered else "mixed units"
        default = f"The default for {kind}. " if found.recipe.scale is None else ""
        blocks = f"{count_of(self._now.blocks, 'block')}. " if self._now.blocks else ""
        constant = found.scaler.constant
        left = f"Weight 0: {count_of(constant, 'constant variable')}." if len(constant) else ""
        self.note.setText(
            f"{default}{blocks}{left}".strip() or "Centred, then divided, variable by variable."
        )
        self._found = found
        self._show_spreads()

    def _show_spreads(self) -> None:
        found = self._found
        if found is not None:
            inputs = (found.treated.values, found.scaled, found.scaler)
            light = found.treated.values.size <= AT_ONCE
            self.model.show_evaluation(
                found, self._spreads.of(inputs, lambda watch: spreads_of(found), light)
            )

    def _change(self, **fields: Any) -> None:
        self.desk.do(ScaleBy(replace(self._now, **fields)))

    def _on_clicked(self, index: QModelIndex) -> None:
        if index.column() == 3:
            label = self.model.labels[index.row()]
            off = tuple(name for name in self._now.off if name != label)
            self._change(off=off if label in self._now.off else (*off, label))

    def _chosen(self) -> tuple[str, ...]:
        rows = sorted({index.row() for index in self.table.selectionModel().selectedIndexes()})
        return tuple(self.model.labels[row] for row in rows)

    def _chosen_off(self) -> None:
        self._change(off=tuple(dict.fromkeys((*self._now.off, *self._chosen()))))

    def _chosen_block(self) -> None:
        chosen = self._chosen()
        if chosen:
            self._change(blocks=(*self._now.blocks, Block(variables=chosen)))
