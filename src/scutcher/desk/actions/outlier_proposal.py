"""Outliers that the robust fit proposes, each with its reasons; a person decides."""

from __future__ import annotations

import numpy as np
from PySide6.QtWidgets import QHBoxLayout, QLabel, QPushButton, QWidget

from scutcher.core.distances.outliers import robust_fit
from scutcher.desk.context import Desk
from scutcher.desk.widgets.figures_table import FiguresTable
from scutcher.desk.widgets.popover import Popover
from scutcher.study.evaluation.evaluation import Evaluation


class Proposal(Popover):
    """The list; its button picks the samples, nothing more."""

    def __init__(self, window: QWidget, desk: Desk, found: Evaluation) -> None:
        super().__init__(window, "Proposed outliers (robust fit)")
        self.desk = desk
        fit = robust_fit(found.z, found.model.k, found.recipe.validate.seed)
        past = np.flatnonzero(fit.outlying())
        size = np.maximum(
            fit.score_distances / fit.score_limit, fit.orthogonal_distances / fit.orthogonal_limit
        )
        self.rows = [int(found.usable.rows[place]) for place in past[np.argsort(-size[past])]]
        words = QLabel(
            f"{len(past)} of {found.scaled.shape[0]} samples lie past a 97.5 % limit of a fit that the most "
            "alike three quarters decide; about one in twenty would by chance. Look before you set any aside."
        )
        words.setObjectName("quiet")
        words.setWordWrap(True)
        self.table = FiguresTable(["sample", "within / limit", "from / limit", "reason"], figures=(1, 2))
        rows = []
        for at in past[np.argsort(-size[past])]:
            within = fit.score_distances[at] / fit.score_limit
            away = fit.orthogonal_distances[at] / fit.orthogonal_limit
            reasons = (["far within the model plane"] if within > 1 else []) + (
                ["far from it"] if away > 1 else []
            )
            rows.append((found.treated.ids[at], f"{within:.2f}", f"{away:.2f}", " and ".join(reasons)))
        self.table.show_rows(rows)
        self.table.setFixedSize(520, min(60 + 23 * max(len(past), 1), 320))
        pick, close = QPushButton("Pick them"), QPushButton("Close")
        pick.setObjectName("primary")
        pick.clicked.connect(self._pick)
        close.clicked.connect(self.dismiss)
        row = QHBoxLayout()
        row.addStretch(1)
        row.addWidget(close)
        row.addWidget(pick)
        self.column.addWidget(words)
        self.column.addWidget(self.table)
        self.column.addLayout(row)

    def _pick(self) -> None:
        self.desk.selection.pick(self.rows)
        self.dismiss()
