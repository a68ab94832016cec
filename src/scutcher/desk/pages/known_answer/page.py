"""Is it right? The known answer of the practice set beside the one found."""

from __future__ import annotations

import numpy as np
from PySide6.QtWidgets import (
    QHBoxLayout,
    QProgressBar,
    QPushButton,
    QVBoxLayout,
    QWidget,
)

from scutcher.core.progress import Watch
from scutcher.core.validation.limit_coverage import coverage
from scutcher.core.words import shown
from scutcher.demo.practice import COMPONENTS, SAMPLES, known
from scutcher.desk.context import Desk, follow
from scutcher.desk.deferred import Soon
from scutcher.desk.pages.overlay import Over
from scutcher.desk.widgets.figures_table import FiguresTable
from scutcher.desk.widgets.panel import paper
from scutcher.desk.words import Words
from scutcher.study.work import Priority

SETS = 200
SLOT = "coverage"
"""Of the queue."""

EXPECTED = {
    "t2": ("T² limit (F)", 0.95),
    "q": ("Q limit", 0.95),
    "joint": ("joint limit", 0.95),
    "t2 held-out": ("T² limit, held-out", 0.95),
    "q held-out": ("Q limit, held-out", 0.95),
    "joint held-out": ("joint limit, held-out", 0.95),
    "1 SD": ("1 SD ellipse", 0.3935),
    "2 SD": ("2 SD ellipse", 0.8647),
    "3 SD": ("3 SD ellipse", 0.9889),
}


HEADER = 34  # pixels of a table that are not rows


class AnswerPage(Over):
    """Two tables: components now, coverage by simulation behind."""

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.desk = desk
        words = Words(
            "The practice set is made of three components whose loadings, variances and noise are known. "
            "Change the treatments or the number of components and see what becomes of the answer."
        )
        words.setObjectName("quiet")
        words.setWordWrap(True)
        headings = ["component", "angle to the true one", "variance found", "true variance", "ratio"]
        self.components = FiguresTable(headings, figures=range(1, 5))
        self.covered = FiguresTable(["for fresh samples", "should hold", "holds"], figures=(1, 2))
        for table, rows in ((self.components, COMPONENTS), (self.covered, len(EXPECTED))):
            table.horizontalHeader().setMinimumSectionSize(150)
            table.setFixedHeight(HEADER + rows * table.verticalHeader().defaultSectionSize())
        self.progress = QProgressBar()
        self.progress.setTextVisible(False)
        self.progress.setRange(0, 100)
        note = Words(
            f"{SETS} simulated sets of {SAMPLES} samples, three components, 100 fresh samples each. With "
            "fewer samples than channels Q's limit is too wide and the joint one too narrow; docs/limits.md "
            "says why."
        )
        note.setObjectName("quiet")
        note.setWordWrap(True)
        close = QPushButton("Close")
        close.clicked.connect(self.done)
        title = Words("Is it right?")
        title.setObjectName("wordmark")
        header = QHBoxLayout()
        header.addWidget(title)
        header.addStretch(1)
        header.addWidget(close)
        layout = QVBoxLayout(self)
        layout.setContentsMargins(24, 16, 24, 16)
        layout.setSpacing(10)
        layout.addLayout(header)
        layout.addWidget(words)
        layout.addWidget(paper("Components: found and true", self.components))
        layout.addWidget(paper("How often limits and ellipses hold", self.covered))
        layout.addWidget(self.progress)
        layout.addWidget(note)
        layout.addStretch(1)
        self._fill_covered({})
        self.redraw = Soon(self.refresh, self)
        follow(self, desk.live, lambda changed: self.redraw() if "evaluation" in changed else None)
        self.refresh()
        desk.live.ask(
            SLOT,
            None,
            _simulated,
            self._on_simulated,
            lambda share: self.progress.setValue(int(100 * share)),
            Priority.GRIDS,
        )

    def refresh(self) -> None:
        """Compare the model of now with what is known."""
        found, structure = self.desk.moment.found, known()
        if found is None or found.treated.shape[1] != len(structure.mean):
            self.components.show_rows((str(place + 1), *"––––") for place in range(COMPONENTS))
            return
        loadings, eigenvalues = found.model.loadings, found.decomposition.eigenvalues
        rows = []
        for place in range(COMPONENTS):
            true = structure.variances[place]
            cells = [str(place + 1), "not kept", "", shown(true, ".4f"), ""]
            if place < found.model.k:
                cosine = abs(float(loadings[:, place] @ structure.loadings[:, place]))
                angle = float(np.degrees(np.arccos(min(cosine, 1.0))))
                cells[1], cells[2] = f"{shown(angle, '.2f')}°", shown(eigenvalues[place], ".4f")
                cells[4] = shown(eigenvalues[place] / true, ".3f")
            rows.append(cells)
        self.components.show_rows(rows)

    def close_down(self) -> None:
        """Stop simulating."""
        self.desk.live.queue.drop(SLOT)

    def _on_simulated(self, answer: dict[str, float] | Exception) -> None:
        if isinstance(answer, Exception):
            raise answer
        self._fill_covered(answer)

    def _fill_covered(self, found: dict[str, float]) -> None:
        self.covered.show_rows(
            (
                words,
                f"{shown(100 * expected, '.1f')} %",
                f"{shown(100 * found[key], '.1f')} %" if key in found else "…",
            )
            for key, (words, expected) in EXPECTED.items()
        )
        if found:
            self.progress.setVisible(False)


def _simulated(watch: Watch) -> dict[str, float]:
    return coverage(known().draw_singly, COMPONENTS, SAMPLES, SETS, seed=1, watch=watch)
