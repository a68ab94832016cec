"""What the Inspect page asks: which component on which axis, what the axis is, why, who is new."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
from PySide6.QtWidgets import QMenu, QWidget

from scutcher.charts.loadings import component_title
from scutcher.charts.scores import usable_pair
from scutcher.charts.words import with_minus
from scutcher.core.errors import InputError
from scutcher.desk.actions.new_samples import NewSamples
from scutcher.desk.context import Desk
from scutcher.desk.pages.inspect.why import Why
from scutcher.desk.painting.strip import StripView
from scutcher.desk.widgets.axis_units import AXES
from scutcher.desk.widgets.panel import ChartPanel
from scutcher.study.document.commands.data import NameAxis
from scutcher.study.evaluation.evaluation import Evaluation
from scutcher.study.evaluation.new_samples import Newcomers


class InspectAsks(QWidget):
    """The part of the Inspect page that opens menus and papers."""

    desk: Desk
    _found: Evaluation | None
    scores_panel: ChartPanel
    distances_panel: ChartPanel
    leftover_panel: ChartPanel
    signals_view: StripView

    def refresh(self) -> None:
        """Draw everything as the study is now."""
        raise NotImplementedError

    def _newcomers(self) -> Newcomers | None:
        raise NotImplementedError

    def why(self) -> Why | None:
        """Why the picked samples are far, as a list of channels."""
        found = self._found
        places = {} if found is None else found.places()
        rows = [places[row] for row in self.desk.selection.look.picked if row in places]
        if found is None or not rows:
            self.desk.say(
                InputError("Nothing in the model is picked.", "Pick samples on a plane or a strip first.")
            )
            return None
        paper = Why(self.window(), self.desk, found, rows)
        paper.open_at(self.distances_panel, above=True)
        return paper

    def show_new(self) -> NewSamples | None:
        """The list of new samples, after the planes show them."""
        self.refresh()
        new = self._newcomers()
        if new is None:
            return None
        listing = NewSamples(self.window(), new, lambda: self.desk.live.bring(None))
        listing.open_at(self.leftover_panel, above=False)
        return listing

    def _readout(self) -> str:
        """The channel under the cursor, and the sample under the pointer with its value there."""
        look, state = self.desk.selection.look, self.desk.moment.state
        chart = self.signals_view.chart
        if state.table is None or chart is None or chart.lines is None:
            return ""
        words = []
        column = None
        if look.channel is not None:
            column = int(np.abs(chart.lines.x - look.channel).argmin())
            axis = state.table.axis
            place = int(np.abs(axis.places() - look.channel).argmin())
            words.append(axis.name(place))
        if look.hovered is not None:
            words.append(state.table.ids[look.hovered])
            found = np.flatnonzero(chart.lines.keys == look.hovered)
            if column is not None and chart.lines.role == "sample" and len(found):
                words.append(with_minus(f"{chart.lines.ys[found[0], column]:.4g}"))
        return "  ".join(words)

    def _choose_component(self, place: int) -> None:
        title = (self.scores_panel.x_title, self.scores_panel.y_title)[place]
        menu = self.component_menu(place)
        if menu is not None:
            menu.popup(title.mapToGlobal(title.rect().center()))

    def component_menu(self, place: int) -> QMenu | None:
        """The components that are kept, to put on the level (0) or the upright axis (1)."""
        if self._found is None:
            return None
        menu = QMenu(self)
        menu.aboutToHide.connect(menu.deleteLater)
        pair = usable_pair(self._found, self.desk.selection.look.pair)
        for component in range(self._found.model.k):
            action = menu.addAction(component_title(self._found, component))
            action.setCheckable(True)
            action.setChecked(pair[place] == component)
            action.triggered.connect(
                lambda _=False, component=component: self._put_component(place, component)
            )
        return menu

    def _put_component(self, place: int, component: int) -> None:
        """Put a component on an axis; the other axis takes the old one where both would be the same."""
        assert self._found is not None
        pair = list(usable_pair(self._found, self.desk.selection.look.pair))
        old, pair[place] = pair[place], component
        if pair[0] == pair[1] and self._found.model.k > 1:
            pair[1 - place] = old
        self.desk.selection.change(pair=(pair[0], pair[1]))

    def _name_axis(self) -> None:
        menu = QMenu(self)
        menu.aboutToHide.connect(menu.deleteLater)
        for quantity, unit in AXES:
            action = menu.addAction(f"{quantity} / {unit}" if unit else quantity)
            action.triggered.connect(self._axis_namer(quantity, unit))
        title = self.leftover_panel.x_title
        menu.popup(title.mapToGlobal(title.rect().center()))

    def _axis_namer(self, quantity: str, unit: str) -> Callable[[], object]:
        return lambda: self.desk.do(NameAxis(quantity, unit))
