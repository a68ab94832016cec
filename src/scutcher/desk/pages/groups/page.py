"""The Groups page: the finding at its top, and the ways to look: labels, groups found, class models."""

from __future__ import annotations

from collections import deque
from collections.abc import Callable, Iterator, Sequence
from functools import partial
from typing import TYPE_CHECKING, Any

from PySide6.QtCore import QPoint
from PySide6.QtWidgets import (
    QHBoxLayout,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from scutcher.charts.words import Pieces
from scutcher.core.computed_once import computed_once
from scutcher.desk.context import Desk
from scutcher.desk.deferred import InTurns
from scutcher.desk.pages.declaration import PageView
from scutcher.desk.pages.groups.labelled import Labelled
from scutcher.desk.widgets.finding import Finding
from scutcher.desk.widgets.panel import choice_words

if TYPE_CHECKING:
    from scutcher.desk.pages.groups.class_models import ModelsView
    from scutcher.desk.pages.groups.found import FoundView

MODES = {
    "labelled": "as labelled|How far the labelled classes lie apart, and whether left-out samples find them",
    "found": "find groups|Groups in the scores, without labels",
    "models": "one model per class|Each class with a model of its own, and which of them accept each sample",
}


class GroupsPage(PageView):
    """Composes the three ways to look; each is made when it is first looked at."""

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.desk = desk
        self.finding = Finding(desk)
        self.mode = "labelled"
        self._said: dict[str, Pieces] = {}
        self._unmade: dict[str, deque[Callable[[], None]]] = {"labelled": deque()}
        self._turns = InTurns(self)

    def build(self) -> Iterator[None]:
        """The first of the three ways."""
        self.stack = QStackedWidget()
        layout = QVBoxLayout(self)
        layout.setContentsMargins(8, 5, 8, 7)
        layout.setSpacing(5)
        layout.addLayout(self._header())
        layout.addWidget(self.stack, 1)
        self.stack.addWidget(self.labelled)
        yield from self.labelled.build()

    @computed_once
    def labelled(self) -> Labelled:
        """The classes as they are labelled."""
        return Labelled(self.desk, partial(self._say, "labelled"))

    @computed_once
    def found(self) -> FoundView:
        """Groups that are found."""
        from scutcher.desk.pages.groups.found import FoundView

        return FoundView(self.desk, partial(self._say, "found"))

    @computed_once
    def models(self) -> ModelsView:
        """One model per class."""
        from scutcher.desk.pages.groups.class_models import ModelsView

        return ModelsView(self.desk, partial(self._say, "models"))

    @property
    def way(self) -> Labelled | FoundView | ModelsView:
        """What is looked at now."""
        if self.mode == "found":
            return self.found
        return self.models if self.mode == "models" else self.labelled

    def _header(self) -> QHBoxLayout:
        header = QHBoxLayout()
        header.setContentsMargins(4, 0, 0, 0)
        header.addWidget(self.finding, 1)
        self.modes = choice_words(self, MODES, self.show_mode)
        for button in self.modes.values():
            header.addWidget(button)
        return header

    def refresh(self) -> None:
        """Draw the way that is looked at."""
        self.way.refresh()

    def show_new_samples(self) -> object:
        """The models of the classes list them; the other ways to look do not."""
        return self.models if self.mode == "models" else None

    def takes_new_samples(self, place: QPoint) -> bool:
        """New samples fall on the plane of two models."""
        if self.mode != "models":
            return False
        panel = self.models.plane_panel
        return panel.rect().contains(panel.mapFrom(self, place))

    def show_mode(self, key: str) -> None:
        """Look in another way; one that is new is made first, of very many values part by part."""
        self.modes[key].setChecked(True)
        if key not in self._unmade:
            new = self.found if key == "found" else self.models
            self.stack.addWidget(new)
            self._unmade[key] = deque(new.parts())
        parts = [partial(self._make_next, key)] * len(self._unmade[key])
        self._turns.run((*parts, partial(self._look, key)), self.desk.has_much)

    def _make_next(self, key: str) -> None:
        self._unmade[key].popleft()()

    def _look(self, key: str) -> None:
        self.mode = key
        self.stack.setCurrentWidget(self.way)
        self.finding.show_pieces(self._said.get(key, ()))

    def _say(self, mode: str, pieces: Pieces) -> None:
        """A way to look has another finding; that of the one that is shown stands at the top."""
        self._said[mode] = pieces
        if mode == self.mode:
            self.finding.show_pieces(pieces)

    def views(self) -> Sequence[Any]:
        """Everything that draws a chart here and can be seen."""
        return self.way.views
