"""New files of a folder on the model of now, as they come: a control strip, and who does not belong."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import numpy as np
from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from scutcher.charts.emphasis import PLAIN
from scutcher.charts.watched import HEADER, control_strip, watched_finding, watched_rows
from scutcher.core.errors import InputError
from scutcher.core.models.pca.saved_model import SavedModel
from scutcher.desk.context import Desk
from scutcher.desk.pages.overlay import Over
from scutcher.desk.painting.plane import PlaneView
from scutcher.desk.widgets.figures_table import FiguresTable
from scutcher.desk.widgets.finding import Finding
from scutcher.desk.widgets.note import Note
from scutcher.desk.widgets.panel import ChartPanel, choice_words, paper
from scutcher.study.folder_events import IDLE, FolderEvents
from scutcher.study.watching import Seen, Watching

EVERY = 1000
"""Milliseconds between two looks; the folder is not looked at while a look is under way."""

SLOT = "watching"
MOST = 20_000
"""Samples that are kept to be drawn; the file has all of them."""


class WatchPage(Over):
    """Looks behind; everything stands in a CSV too, which survives whatever happens to the window."""

    leaves_on_escape = False

    def __init__(
        self, desk: Desk, model: SavedModel, name: str, watching: Watching, parent: QWidget | None = None
    ) -> None:
        super().__init__(parent)
        self.desk, self.watching = desk, watching
        self.seen: list[Seen] = []
        self.kind = "joint" if model.joint_limit is not None else "q"
        self.limits = {
            "t2": None if model.t2_limit is None else model.t2_limit.value,
            "q": None if model.q_limit is None else model.q_limit.value,
            "joint": None if model.joint_limit is None else model.joint_limit.value,
        }
        self._looking, self._idle = False, 0.0
        self.events = FolderEvents(watching.folder)
        self.finding = Finding(desk)
        self.view = PlaneView()
        self.panel = ChartPanel(self.view, "Distance of each new sample over its limit, in order of reading")
        words = choice_words(
            self,
            {
                "joint": "joint|T² and Q together",
                "q": "Q|What the model leaves over",
                "t2": "T²|How far out in the model",
            },
            self._turn,
        )
        words[self.kind].setChecked(True)
        for button in words.values():
            self.panel.add_to_header(button)
        self.words = words
        self.table = FiguresTable(HEADER, (2, 3, 4))
        self.place = Note(f"{watching.folder} · judged by {name} as it was · written to {watching.out.name}")
        self.place.setObjectName("quiet")
        stop = QPushButton("Stop watching")
        stop.clicked.connect(self.done)
        self.stop = stop
        header = QHBoxLayout()
        header.setContentsMargins(4, 0, 0, 0)
        header.addWidget(self.finding, 1)
        header.addWidget(stop)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(8, 6, 8, 7)
        whole.addLayout(header)
        whole.addWidget(self.place)
        whole.addWidget(self.panel, 50)
        whole.addWidget(paper("The newest first", self.table), 50)
        self.timer = QTimer(self)
        self.timer.setInterval(EVERY)
        self.timer.timeout.connect(self._tick)
        self.timer.start()
        self.show_all()
        self.look()

    def _tick(self) -> None:
        """Look where something may have happened: was told, is waited for, or cannot be told."""
        self._idle += EVERY / 1000.0
        told = self.events.happened()
        if told or not self.events.told or self.watching.waits or self._idle >= IDLE:
            self.look()

    def look(self) -> None:
        """Ask for what has come, unless somebody looks already."""
        if self._looking:
            return
        self._looking, self._idle = True, 0.0
        self.desk.live.ask(SLOT, None, lambda watch: self.watching.look(), self._take)

    def _take(self, answer: Any) -> None:
        self._looking = False
        if isinstance(answer, InputError):
            self.timer.stop()
            self.desk.say(answer, "Go on", self._go_on)
        elif isinstance(answer, Exception):
            self.timer.stop()
            raise answer
        elif answer:
            self.seen = [*self.seen, *answer][-MOST:]
            self.show_all()

    def _go_on(self) -> None:
        self.events.stop()
        self.events = FolderEvents(self.watching.folder)  # it may be another one of that name
        self.timer.start()
        self.look()

    def show_all(self) -> None:
        """Strip, rows and sentence as they are now."""
        self.finding.show_pieces(watched_finding(self.seen))
        chart = control_strip(self.seen, self.limits, self.kind)
        self.panel.describe(chart)
        count = 0 if chart.marks is None else len(chart.marks.x)
        self.view.show_chart(chart, np.full(count, PLAIN))
        self.table.show_rows(watched_rows(self.seen))

    def _turn(self, kind: str) -> None:
        self.kind = kind
        self.show_all()

    def close_down(self) -> None:
        """Nobody looks at the folder any more."""
        self.timer.stop()
        self.events.stop()
        self.desk.live.queue.drop(SLOT)


def begin(desk: Desk, folder: Path, out: Path) -> WatchPage:
    """Watch a folder by the model of now.

    Raises
    ------
    InputError
        There is no model, no such folder, or the CSV cannot be written.
    """
    from scutcher.study.evaluation.saving import saved_model

    found, checked = desk.moment.found, desk.moment.checked
    if found is None:
        raise InputError("There is no model to judge by.", "Bring in its data first (Ctrl+O).")
    model = saved_model(found, checked).judging()
    now = desk.moment.state.model
    name = now.name if now is not None and now.name else "the model of now"
    return WatchPage(desk, model, name, Watching(model, folder, out))
