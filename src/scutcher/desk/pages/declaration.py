"""What a page declares, and what the window may ask of one; the folder of pages is their registry."""

from __future__ import annotations

import importlib
import pkgutil
from collections.abc import Callable, Iterator, Sequence
from functools import cache
from typing import Any

from PySide6.QtCore import QPoint, Signal
from PySide6.QtWidgets import QWidget

from scutcher.charts.description import Chart
from scutcher.core.data.table import Table
from scutcher.core.frozen import frozen
from scutcher.desk.context import Desk
from scutcher.study.moment import Moment


class PageView(QWidget):
    """A place to look. What it does not answer itself is answered here."""

    over_wanted = Signal(object)
    """With a function that makes a view to be put over the page."""

    in_bottom_bar: QWidget | None = None
    """What stands in the bottom bar in place of the ladder while the page is looked at."""

    takes_several_tables = False
    """Whether files of new samples are read one by one and given to `bring_tables`."""

    def build(self) -> Iterator[None]:
        """Make what is on the page, once it has its place in the window.

        It stops between two parts: of very many values the window paints and listens there. What a page
        follows it follows from the last part on. A page that is made in its constructor has nothing here.
        """
        yield from ()

    def refresh(self) -> None:
        """Show everything as it is now: for the first time as soon as the page is whole and has its size."""

    def put_by(self) -> bool:
        """Put on the shelf what is looked at here in place of the model; whether there is such a thing."""
        return False

    def bring_tables(self, tables: Sequence[Table]) -> None:
        """New samples, a table for each file."""

    def views(self) -> Sequence[Any]:
        """Everything that draws a chart here and can be copied: each has `chart` and `whole()`."""
        return ()

    def charts(self) -> list[Chart]:
        """The charts on the page that have something in them."""
        found = [view.chart for view in self.views()]
        return [chart for chart in found if chart is not None and not chart.is_blank]

    def whole(self) -> None:
        """Show all of every strip and plane."""
        for view in self.views():
            view.whole()

    def hide_axes(self) -> None:
        """No figures beside a view that is drawn later and has nothing to show yet."""
        for view in self.views():
            view.show_axes(False)

    def show_new_samples(self) -> object:
        """List the new samples on the model, where the page can."""
        return None

    def takes_new_samples(self, place: QPoint) -> bool:
        """Whether files dropped at a place of the page are new samples for the model."""
        return False


@frozen
class PageAct:
    """Something to do on a page: its words, its key, what the page's view does, and other names for it."""

    words: str
    key: str
    run: Callable[[Any], object]
    also: str = ""


def has_data(moment: Moment) -> bool:
    """Whether there is anything to look at."""
    return moment.state.table is not None


def never(moment: Moment) -> bool:
    """For pages on which no data begin."""
    return False


@frozen
class Page:
    """A page as the window, the finder and the keys know it.

    Attributes
    ----------
    name : str
        On the top bar.
    order : int
        Its place there, rising.
    purpose : str
        What one goes there for, as its tooltip says it.
    make : function of a Desk
        Makes its view when it is first looked at; imports what it needs then.
    suits : function of a Moment
        Whether the data allow it.
    begins : function of a Moment
        Whether a window whose first data are such begins here.
    acts : tuple of PageAct
    """

    name: str
    order: int
    purpose: str
    make: Callable[[Desk], PageView]
    suits: Callable[[Moment], bool] = has_data
    begins: Callable[[Moment], bool] = never
    acts: tuple[PageAct, ...] = ()


@cache
def all_pages() -> tuple[Page, ...]:
    """Every page, in the order of the top bar: each folder of `desk.pages` that declares a PAGE."""
    import scutcher.desk.pages as folder

    found: list[Page] = []
    for module in pkgutil.iter_modules(folder.__path__):
        if module.ispkg:
            declared = getattr(importlib.import_module(f"{folder.__name__}.{module.name}"), "PAGE", None)
            if isinstance(declared, Page):
                found.append(declared)
    return tuple(sorted(found, key=lambda page: page.order))
