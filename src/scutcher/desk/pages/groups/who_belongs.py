"""Who belongs where: a line for each sample, all of them or those of one kind, and the new ones."""

from __future__ import annotations

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtWidgets import QWidget

from scutcher.charts.class_models import WHO, who_belongs
from scutcher.charts.new_on_classes import new_lines
from scutcher.charts.overlays import NEW
from scutcher.core.arrays import Integers
from scutcher.desk.context import Desk
from scutcher.desk.painting.plane import PlaneView
from scutcher.desk.widgets.figures_table import FiguresTable
from scutcher.desk.widgets.panel import choice_words, paper
from scutcher.study.evaluation.class_models import ClassModels, NewOnClasses

KINDS = {
    "all": "all|Every sample",
    "none": "none|Accepted by no model, farthest first",
    "several": "several|Accepted by several models",
    "another": "another|Accepted by the model of another class only",
    "new": "new|New samples: drop a file on the plane, or Ctrl+Shift+O",
}


class WhoBelongs:
    """The list and the words that choose what is in it.

    Attributes
    ----------
    table : FiguresTable
    kinds : dict of kind → QToolButton
    panel : QWidget
        All of it.
    """

    def __init__(self, desk: Desk, owner: QWidget, plane: PlaneView) -> None:
        self._desk, self._plane = desk, plane
        self._found: ClassModels | None = None
        self._new: NewOnClasses | None = None
        self._of_table: Integers = np.empty(0, dtype=np.intp)
        self._rows: list[int] = []
        self.kind = "all"
        self.table = FiguresTable(WHO, figures=(4,))
        words = "Joint distance to the nearest model over its limit"
        self.table.model().setHeaderData(4, Qt.Orientation.Horizontal, words, Qt.ItemDataRole.ToolTipRole)
        self.table.itemSelectionChanged.connect(self._on_line)
        self.kinds = choice_words(owner, KINDS, self._set_kind)
        self.kinds["new"].setEnabled(False)
        self.panel = paper("Who belongs where", self.table, (), tuple(self.kinds.values()))

    def show(self, found: ClassModels | None, new: NewOnClasses | None, rows: Integers) -> None:
        """Put other models in; new samples that were not there before are listed at once.

        Parameters
        ----------
        rows : rows of the study's table that the samples are
        """
        come = new is not None and new is not self._new
        self._found, self._new, self._of_table = found, new, rows
        self.kinds["new"].setEnabled(new is not None)
        if come or (new is None and self.kind == "new"):
            self.kind = "new" if come else "all"
            self.kinds[self.kind].setChecked(True)
        self._fill()

    def _fill(self) -> None:
        if self._found is None:
            lines = []
        elif self.kind == "new" and self._new is not None:
            lines = new_lines(self._found, self._new)
        else:
            lines = who_belongs(self._found, self.kind)
        self._rows = [row for row, _ in lines]
        self.table.show_rows([figures for _, figures in lines])

    def _set_kind(self, kind: str) -> None:
        self.kind = kind
        self._fill()

    def _on_line(self) -> None:
        places = sorted(index.row() for index in self.table.selectionModel().selectedRows())
        if places and self.kind == "new":
            self._plane.hover_mark(NEW + self._rows[places[-1]])
        elif places:
            self._desk.selection.pick([int(self._of_table[self._rows[place]]) for place in places])
