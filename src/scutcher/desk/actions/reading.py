"""Reading large files behind: a small paper with progress and a stop, over whatever is on screen."""

from __future__ import annotations

import threading
from collections.abc import Callable
from pathlib import Path

from PySide6.QtWidgets import QFrame, QHBoxLayout, QLabel, QProgressBar, QPushButton, QWidget

from scutcher.core.data.table import Table
from scutcher.core.errors import InputError
from scutcher.desk.context import Mailbox
from scutcher.files.formats import read_tables

LARGE = 8_000_000  # bytes: reading less takes less than a moment


class ReadingPaper(QFrame):
    """Reads on a thread of its own; `done` gets the table or the error, unless it was stopped."""

    def __init__(
        self, window: QWidget, mailbox: Mailbox, paths: list[Path], done: Callable[[Table | InputError], None]
    ) -> None:
        super().__init__(window)
        self.setObjectName("popover")
        self.mailbox, self.paths, self.done = mailbox, paths, done
        self._stopped = threading.Event()
        self.bar = QProgressBar()
        self.bar.setRange(0, 100)
        self.bar.setFixedWidth(180)
        self.bar.setTextVisible(False)
        self.stop = QPushButton("Stop")
        self.stop.clicked.connect(self._stop)
        row = QHBoxLayout(self)
        row.setContentsMargins(14, 10, 14, 10)
        row.addWidget(QLabel(f"Reading {', '.join(path.name for path in paths[:2])}"))
        row.addWidget(self.bar)
        row.addWidget(self.stop)
        self.adjustSize()
        self.move((window.width() - self.width()) // 2, 56)
        self.show()
        self.raise_()
        self._thread = threading.Thread(target=self._read, name="scutcher-reading", daemon=True)
        self._thread.start()

    def wait(self) -> None:
        """Stop, and wait for the thread: the window is about to go."""
        self._stopped.set()
        self._thread.join()

    def _stop(self) -> None:
        self.stop.setEnabled(False)
        self._stopped.set()

    def _read(self) -> None:
        try:
            answer: Table | InputError = read_tables(self.paths, watch=self._watch)
        except InputError as error:
            answer = error
        self.mailbox.post(lambda: self._finish(answer))

    def _watch(self, share: float) -> bool:
        """Called from the reading thread: shows how far it is, and says whether to go on."""
        self.mailbox.post(lambda: self.bar.setValue(round(100 * share)))
        return not self._stopped.is_set()

    def _finish(self, answer: Table | InputError) -> None:
        self.hide()
        self._thread.join()
        self.done(answer)
        self.deleteLater()
