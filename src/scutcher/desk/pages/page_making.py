"""Pages are made when they are first looked at, part by part: of very many values a part at a turn."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping

from PySide6.QtCore import QTimer
from PySide6.QtWidgets import QVBoxLayout, QWidget

from scutcher.desk.context import Desk
from scutcher.desk.pages.declaration import Page, PageView
from scutcher.desk.painting import busy


class PageMaking:
    """Makes the views of pages within a place.

    Parameters
    ----------
    place : QWidget
        They stand in its layout from their beginning: what moves from one parent to another is dressed anew.
    made : function of a page's name and its view
        Is told of each as soon as it is whole.
    """

    def __init__(
        self, desk: Desk, place: QWidget, pages: Mapping[str, Page], made: Callable[[str, PageView], None]
    ) -> None:
        self._desk, self._place, self._pages, self._made = desk, place, pages, made
        self._begun: dict[str, tuple[PageView, Iterator[None]]] = {}
        self._unfinished: list[PageView] = []
        """They go with the window, as parts without a parent must."""
        self._next = ""
        self._timer = QTimer(place)
        self._timer.setSingleShot(True)
        self._timer.setInterval(0)
        self._timer.timeout.connect(self._turn)
        place.destroyed.connect(lambda: busy.mark(self, False))

    def is_begun(self, name: str) -> bool:
        """Whether a page is being made."""
        return name in self._begun

    def rest(self) -> None:
        """Nobody waits for a page any more: what is begun stays as it is until it is asked for again."""
        self._next = ""

    def make(self, name: str, apart: bool) -> None:
        """Make a page, or what is still missing of one.

        Parameters
        ----------
        apart : whether each part has a turn of its own; those of a page that was asked for before wait
        """
        self._next = name
        if apart:
            self._begin(name)
            busy.mark(self, True)
            self._timer.start()
        else:
            while not self._advance(name):
                pass

    def _begin(self, name: str) -> None:
        if name in self._begun:
            return
        view = self._pages[name].make(self._desk)
        view.hide()  # until it is whole
        layout = self._place.layout()
        assert isinstance(layout, QVBoxLayout)
        layout.addWidget(view)
        self._begun[name] = view, view.build()

    def _advance(self, name: str) -> bool:
        """Make one part; whether that was the last."""
        self._begin(name)
        view, parts = self._begun[name]
        try:
            next(parts)
        except StopIteration:
            del self._begun[name]
            self._made(name, view)
            return True
        except BaseException:
            del self._begun[name]  # it is begun anew the next time
            self._unfinished.append(view)
            raise
        return False

    def _turn(self) -> None:
        busy.mark(self, False)
        if self._next in self._begun and not self._advance(self._next):
            busy.mark(self, True)
            self._timer.start()
