"""Files dropped on the window: data to bring in, or new samples where they fall on the model."""

from __future__ import annotations

from pathlib import Path

from PySide6.QtCore import QPoint
from PySide6.QtGui import QDragEnterEvent, QDropEvent

from scutcher.core.errors import FileError
from scutcher.desk.actions.papers import Overs


class Dropping(Overs):
    """The part of the window that takes what is dropped on it."""

    def dragEnterEvent(self, event: QDragEnterEvent) -> None:
        """Files may be dropped."""
        if event.mimeData().hasUrls():
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent) -> None:
        """Bring in what was dropped."""
        paths = [Path(url.toLocalFile()) for url in event.mimeData().urls() if url.isLocalFile()]
        if paths and self._on_model(event.position().toPoint()):
            self.bring_new(paths)
        elif paths:
            self.opening.open_files(paths)
        else:
            self.message.say(FileError("What was dropped is not a file on this machine.", "Save it first."))

    def _on_model(self, place: QPoint) -> bool:
        """Whether a place is on the score or distance plane of the Inspect page, or on the model's knot."""
        page = self.inspect
        widgets = [self.trail.model_knot] if self.trail.knots else []
        if page is not None and page.isVisible():
            widgets += [page.scores_panel, page.distances_panel]
        return any(
            widget.rect().contains(widget.mapFrom(self, place)) for widget in widgets if widget.isVisible()
        )
