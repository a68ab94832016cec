"""Files dropped on the window: data to bring in, or new samples where they fall on the model."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QPoint
from PySide6.QtGui import QDragEnterEvent, QDropEvent
from PySide6.QtWidgets import QWidget

from scutcher.core.errors import FileError
from scutcher.desk.shell.papers import Papers


class Dropping:
    """Takes what is dropped on a window."""

    def __init__(self, window: QWidget, papers: Papers) -> None:
        self.window, self.papers = window, papers

    def enter(self, event: QDragEnterEvent) -> None:
        """Files may be dropped."""
        if event.mimeData().hasUrls():
            event.acceptProposedAction()

    def drop(self, event: QDropEvent) -> None:
        """Bring in what was dropped."""
        paths = [Path(url.toLocalFile()) for url in event.mimeData().urls() if url.isLocalFile()]
        if paths and self._on_model(event.position().toPoint()):
            self.papers.bring_new(paths)
        elif paths:
            self.papers.opening.open_files(paths)
        else:
            error = FileError("What was dropped is not a file on this machine.", "Save it first.")
            self.papers.desk.say(error)

    def _on_model(self, place: QPoint) -> bool:
        """Whether a place of the window is on the model's knot, or where its page takes new samples."""
        trail, page = self.papers.trail, self.papers.stack.shown
        knot = trail.model_knot if trail.knots else None
        if knot is not None and knot.isVisible() and knot.rect().contains(knot.mapFrom(self.window, place)):
            return True
        return page is not None and page.takes_new_samples(page.mapFrom(self.window, place))
