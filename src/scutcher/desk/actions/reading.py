"""Reading files behind, with a small paper that shows how far it is and can stop it."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QFrame, QHBoxLayout, QProgressBar, QPushButton, QWidget

from scutcher.core.data.table import Table
from scutcher.core.errors import InputError
from scutcher.core.progress import Watch
from scutcher.desk.context import Desk
from scutcher.desk.words import Words
from scutcher.files.columns import Roles
from scutcher.files.hashes import content_hash
from scutcher.study.evaluation.pixels import step_of
from scutcher.study.work import Priority

SLOT = "reading"
"""Of the queue."""

AFTER = 300
"""Milliseconds after which the paper is shown: most files are read before."""

Taken = Callable[[Table | InputError], object]


class Reading:
    """Reads one after the other; the newest wins.

    Attributes
    ----------
    contents : tuple of str
        SHA-256 of each of the files that were handed over last, taken before they were read.
    """

    def __init__(self, desk: Desk, window: QWidget) -> None:
        self.desk = desk
        self.paper = ReadingPaper(window, self.stop)
        self.contents: tuple[str, ...] = ()
        self._wanted: object = None

    @property
    def busy(self) -> bool:
        """Whether something is being read and has not been handed over."""
        return self._wanted is not None

    def read(self, paths: list[Path], roles: Roles | None, resample: bool, done: Taken) -> None:
        """Read files behind; `done` gets the table or the sentence on the window's thread."""
        self._wanted = wanted = object()
        self.paper.expect(paths)

        def work(watch: Watch) -> tuple[Table, tuple[str, ...]]:
            from scutcher.files.formats import read_tables

            table = read_tables(paths, roles, watch, resample)
            if step_of(table) > 1:  # some pixels of a large image: they are kept, and it is not read again
                return table, ()
            return table, tuple(map(content_hash, paths))

        def finished(answer: tuple[Table, tuple[str, ...]] | Exception) -> None:
            if wanted is not self._wanted:
                return
            self._wanted = None
            self.paper.put_away()
            if isinstance(answer, InputError):
                done(answer)
            elif isinstance(answer, Exception):
                raise answer
            else:
                table, self.contents = answer
                done(table)

        self.desk.live.ask(SLOT, None, work, finished, self.paper.show_share, Priority.FILES)

    def stop(self) -> None:
        """Nobody waits any more."""
        if self._wanted is not None:
            self._wanted = None
            self.desk.live.queue.drop(SLOT)
            self.paper.put_away()
            names = ", ".join(path.name for path in self.paper.paths[:2])
            self.desk.say(InputError(f"Reading {names} was stopped.", "Nothing was changed."))


class ReadingPaper(QFrame):
    """Names, a bar, a button; over whatever is on screen."""

    def __init__(self, window: QWidget, stop: Callable[[], object]) -> None:
        super().__init__(window)
        self.setObjectName("popover")
        self.paths: list[Path] = []
        self.words, self.bar, self.stop = Words(), QProgressBar(), QPushButton("Stop")
        self.bar.setRange(0, 100)
        self.bar.setFixedWidth(180)
        self.bar.setTextVisible(False)
        self.stop.clicked.connect(stop)
        row = QHBoxLayout(self)
        row.setContentsMargins(14, 10, 14, 10)
        for widget in (self.words, self.bar, self.stop):
            row.addWidget(widget)
        self._timer = QTimer(self)
        self._timer.setSingleShot(True)
        self._timer.setInterval(AFTER)
        self._timer.timeout.connect(self._show)
        self.hide()

    def expect(self, paths: list[Path]) -> None:
        """Something is being read: say so if it takes a while."""
        self.paths = paths
        self.words.setText(f"Reading {', '.join(path.name for path in paths[:2])}")
        self.bar.setValue(0)
        self._timer.start()

    def show_share(self, share: float) -> None:
        """How far it is."""
        self.bar.setValue(round(100 * share))

    def put_away(self) -> None:
        """It is read, or nobody waits any more."""
        self._timer.stop()
        self.hide()

    def _show(self) -> None:
        self.adjustSize()
        window = self.parentWidget()
        assert window is not None
        self.move((window.width() - self.width()) // 2, 56)
        self.show()
        self.raise_()
