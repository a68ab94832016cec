"""What the Inspect page asks: which component on which axis, why samples are far, who is new."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PySide6.QtWidgets import QMenu, QWidget

from scutcher.charts.loadings import component_title
from scutcher.charts.scores import usable_pair
from scutcher.core.errors import InputError
from scutcher.desk.actions.new_samples import NewSamples
from scutcher.desk.context import Desk
from scutcher.desk.pages.inspect.newcomers import NewcomersWork
from scutcher.desk.pages.inspect.why import Why
from scutcher.desk.widgets.panel import ChartPanel
from scutcher.study.evaluation.new_samples import Newcomers


class Questions:
    """Menus and papers of the page.

    Parameters
    ----------
    page : what papers stand over belongs to its window
    scores_panel : whose axis titles are asked
    beside : where papers open, so that they cover none of the planes they speak of
    newcomers : what knows the new samples, once the planes show them
    """

    def __init__(
        self,
        desk: Desk,
        page: QWidget,
        scores_panel: ChartPanel,
        beside: QWidget,
        newcomers: Callable[[], NewcomersWork],
    ) -> None:
        self.desk, self.page, self.scores_panel = desk, page, scores_panel
        self.beside, self._newcomers = beside, newcomers
        for title, place in ((scores_panel.x_title, 0), (scores_panel.y_title, 1)):
            title.set_clickable(True)
            title.setToolTip("Click to choose another component")
            title.clicked.connect(partial(self._choose_component, place))

    def why(self) -> Why | None:
        """Why the picked samples are far, as a list of channels."""
        found = self.desk.moment.found
        places = {} if found is None else found.places()
        rows = [places[row] for row in self.desk.selection.look.picked if row in places]
        if found is None or not rows:
            self.desk.say(
                InputError("Nothing in the model is picked.", "Pick samples on a plane or a strip first.")
            )
            return None
        paper = Why(self.page.window(), self.desk, found, rows)
        paper.open_at_left()
        return paper

    def show_new(self) -> object:
        """The list of new samples, after the planes show them."""
        return self._newcomers().then(self._list)

    def _list(self, new: Newcomers) -> NewSamples:
        listing = NewSamples(self.page.window(), self.desk, new)
        listing.open_at(self.beside, above=False)
        return listing

    def _choose_component(self, place: int) -> None:
        title = (self.scores_panel.x_title, self.scores_panel.y_title)[place]
        menu = self.component_menu(place)
        if menu is not None:
            menu.popup(title.mapToGlobal(title.rect().center()))

    def component_menu(self, place: int) -> QMenu | None:
        """The components that are kept, to put on the level (0) or the upright axis (1)."""
        found = self.desk.moment.found
        if found is None:
            return None
        menu = QMenu(self.page)
        menu.aboutToHide.connect(menu.deleteLater)
        pair = usable_pair(found, self.desk.selection.look.pair)
        for component in range(found.model.k):
            action = menu.addAction(component_title(found, component))
            action.setCheckable(True)
            action.setChecked(pair[place] == component)
            action.triggered.connect(
                lambda _=False, component=component: self._put_component(place, component)
            )
        return menu

    def _put_component(self, place: int, component: int) -> None:
        """Put a component on an axis; the other axis takes the old one where both would be the same."""
        found = self.desk.moment.found
        if found is None:
            return
        pair = list(usable_pair(found, self.desk.selection.look.pair))
        old, pair[place] = pair[place], component
        if pair[0] == pair[1] and found.model.k > 1:
            pair[1 - place] = old
        self.desk.selection.change(pair=(pair[0], pair[1]))
