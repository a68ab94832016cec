"""What stands in the middle of the window: the start page, one of the pages, or a view put over it."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from PySide6.QtCore import QCoreApplication, QEvent, Signal
from PySide6.QtWidgets import QVBoxLayout, QWidget

from scutcher.core.errors import InputError
from scutcher.desk.context import Desk
from scutcher.desk.pages.declaration import Page, PageView
from scutcher.desk.pages.overlay import Over
from scutcher.desk.pages.page_making import PageMaking


class PageStack(QWidget):
    """Each page is made when it is first looked at and there are data.

    Attributes
    ----------
    current : str
        The name of the page that is shown, or would be.
    over : Over or None
        What stands in place of the page until it is done.
    """

    chosen = Signal(str)
    settled = Signal()
    """What is to be seen is seen."""

    def __init__(
        self, desk: Desk, start: QWidget, pages: tuple[Page, ...], first: str, chosen: bool = True
    ) -> None:
        super().__init__(start.parentWidget())
        self.desk, self.start = desk, start
        self.pages = {page.name: page for page in pages}
        self.current, self._is_chosen = first, chosen
        self.over: Over | None = None
        self._views: dict[str, PageView] = {}
        self._making = PageMaking(desk, self, self.pages, self._on_made)
        self._seen = ""
        self._place = QVBoxLayout(self)
        self._place.setContentsMargins(0, 0, 0, 0)
        self._place.addWidget(start)

    def view(self, name: str) -> PageView | None:
        """The view of a page, where somebody has looked at it."""
        return self._views.get(name)

    @property
    def shown(self) -> PageView | None:
        """The view of the current page; None while something stands over it."""
        return None if self.over is not None else self.view(self.current)

    def show_page(self, name: str, at_once: bool = False) -> PageView | None:
        """Go to a page; the place to look changes, nothing else. Its view, where there are data for it.

        Of very many values it is made in the turns that follow, and None until it is whole, unless it is
        needed `at_once`.
        """
        if not self.suits(name):
            self.desk.say(InputError(f"These data have nothing for {name}: {self.pages[name].purpose}.", ""))
            return None
        self.hide_over()
        self.current, self._is_chosen = name, True
        self.chosen.emit(name)
        self.settle(at_once)
        return self.view(name)

    def suits(self, name: str) -> bool:
        """Whether the data of now allow a page; without data any may be due."""
        state = self.desk.study.state
        return state.table is None or self.pages[name].suits(replace(self.desk.moment, state=state))

    def settle(self, at_once: bool = False) -> None:
        """Make the page that is due and show what is to be seen: the start page without data."""
        has_data = self.desk.study.state.table is not None
        if has_data and not self._is_chosen:
            self._begin()
        if has_data and self.current not in self._views:
            self._making.make(self.current, apart=self.desk.has_much and not at_once)
            if self.current in self._views:
                return  # it is shown as soon as it is whole
        else:
            self._making.rest()
        self.choose()

    def _on_made(self, name: str, view: PageView) -> None:
        view.over_wanted.connect(self._put_made)
        self._views[name] = view
        view.refresh()
        if name == self.current:
            self.choose()
            _settle(view)

    def _begin(self) -> None:
        """Nobody has chosen a page yet: such data may begin on one of their own."""
        self._is_chosen = True
        moment = replace(self.desk.moment, state=self.desk.study.state)
        own = next((name for name, page in self.pages.items() if page.begins(moment)), self.current)
        if own != self.current:
            self.current = own
            self.chosen.emit(own)

    def choose(self) -> None:
        """Show what is to be seen of what there is."""
        has_data = self.desk.study.state.table is not None
        if not self.suits(self.current):
            self.show_page(next(name for name in self.pages if self.suits(name)))
            return
        self.start.setVisible(not has_data and self.over is None)
        shown = self._due() if has_data and self.over is None else None
        for view in self._views.values():
            if view is not shown:
                view.hide()  # first: two that are shown together would be squeezed, and all of it drawn again
        if shown is not None:
            shown.show()
        self.settled.emit()

    def _due(self) -> PageView | None:
        """The page that is to be seen; while it is being made the one that was seen before."""
        if self.current in self._views:
            self._seen = self.current
        elif not (self._making.is_begun(self.current) and self._seen and self.suits(self._seen)):
            return None
        return self._views[self._seen]

    def put_over(self, view: Over) -> None:
        """Show a view in place of the page, and of the one that was there, until it is done."""
        self.hide_over()
        self.over = view
        view.done.connect(self.hide_over)
        self._place.addWidget(view)
        self.choose()

    def _put_made(self, make: Callable[[Desk], Over]) -> None:
        self.put_over(make(self.desk))

    def hide_over(self) -> None:
        """Back to the page."""
        if self.over is not None:
            over, self.over = self.over, None
            over.close_down()
            over.setParent(None)
            over.deleteLater()
            self.choose()


def _settle(view: PageView) -> None:
    """Take over all that a page that is shown for the first time still waits for: it is drawn once, whole."""
    from scutcher.desk.painting.area import PlotArea  # the first frame does without plots

    QCoreApplication.sendPostedEvents(None, QEvent.Type.LayoutRequest.value)
    for plot in view.findChildren(PlotArea):
        plot.settle()
    QCoreApplication.sendPostedEvents(None, QEvent.Type.UpdateLater.value)
