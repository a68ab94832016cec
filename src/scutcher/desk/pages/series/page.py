"""The Series page: a picture with a and b, all pairs, amounts, growing windows."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Sequence
from dataclasses import replace
from functools import partial
from typing import Any

from PySide6.QtWidgets import QHBoxLayout, QVBoxLayout, QWidget

from scutcher.charts.memo import same
from scutcher.charts.series.difference import Stretch
from scutcher.charts.series.finding import finding
from scutcher.charts.series.pairs import said as pairs_said
from scutcher.desk.context import Desk, follow
from scutcher.desk.deferred import InTurns, Soon
from scutcher.desk.pages.declaration import PageView
from scutcher.desk.pages.series import acts
from scutcher.desk.pages.series.hands import Hands, first_hands, within
from scutcher.desk.pages.series.left import SIDES, LeftSide
from scutcher.desk.pages.series.order_menu import fill_order
from scutcher.desk.pages.series.references import References
from scutcher.desk.pages.series.right import RightSide
from scutcher.desk.pages.series.shapes import ShapeChoices
from scutcher.desk.pages.series.work import SeriesWork
from scutcher.desk.widgets.choice_menu import ChoiceMenu
from scutcher.desk.widgets.finding import Finding
from scutcher.desk.widgets.gestures import pick
from scutcher.study.evaluation.series import Series, series_of


class SeriesPage(PageView):
    """Reads the moment; a and b belong to the page, what is kept of them to the study."""

    def __init__(self, desk: Desk, parent: QWidget | None = None) -> None:
        super().__init__(parent)
        self.desk = desk
        self.hands = Hands()
        self._of: tuple[Any, ...] = ()
        self._before: Series | None = None

    def build(self) -> Iterator[None]:
        """The picture of the series at the left, its curves at the right."""
        desk = self.desk
        self.work = SeriesWork(desk, self._on_told)
        self.finding = Finding(desk)
        self.left = LeftSide(desk, self.work, lambda: self.hands)
        yield from self.left.build()
        yield
        self.right = RightSide(desk, self.work, lambda: self.hands)
        yield
        self.shapes = ShapeChoices(desk, self.work, lambda: self.hands, self)
        self.references = References(desk, self.work, lambda: self.hands, self._compare, self)
        self._arrange()
        yield
        self.left.picture.moving.connect(self._on_moving)
        self.left.picture.moved.connect(self._on_moved)
        self.left.picture.channel.connect(lambda channel: desk.selection.change(channel=channel))
        self.left.picture.row_hovered.connect(self._on_hover)
        self.left.picture.left.connect(lambda: desk.selection.change(hovered=None))
        self.left.picture.row_picked.connect(self._on_pick)
        self.right.pair_chosen = self._on_pair
        self.left.difference.regions_moving.connect(self._on_peak)
        self.redraw, self._turns = Soon(self.refresh, self), InTurns(self)
        follow(self, desk.live, self._on_live)
        follow(self, desk.selection, self._on_selection)

    def _arrange(self) -> None:
        self.order_menu = ChoiceMenu(
            "order ▾", "What puts the samples in order, and which series", partial(fill_order, self)
        )
        tip = "What a difference should look like, and how pairs are compared with it"
        self.reference_menu = ChoiceMenu("reference ▾", tip, self.references.fill)
        words = "Keep, find and take away shapes; rules of the amounts; write them"
        self.shape_menu = ChoiceMenu("shapes ▾", words, self.shapes.fill)
        self.left.difference_panel.add_to_header(self.reference_menu)
        self.left.amounts_panel.add_to_header(self.shape_menu)
        header = QHBoxLayout()
        header.setContentsMargins(4, 0, 0, 0)
        header.addWidget(self.finding, 1)
        header.addWidget(self.order_menu)
        columns = QHBoxLayout()
        columns.setSpacing(7)
        columns.addLayout(self.left.layout(), 1)
        columns.addLayout(self.right.layout())
        whole = QVBoxLayout(self)
        whole.setContentsMargins(8, 5, 8, 7)
        whole.setSpacing(5)
        whole.addLayout(header)
        whole.addLayout(columns, 1)

    def views(self) -> Sequence[Any]:
        """Everything that draws a chart here."""
        return [view for view in (*self.left.views, *self.right.views) if view.isVisible()]

    # From the moment to the views

    def refresh(self) -> None:
        """Draw everything as the moment is."""
        if not self._is_of_now():
            self._take_series()
        moment = self.desk.moment
        self._of = (moment.found, moment.state.dataset, self.hands.code)
        self.show_all()

    def show_all(self) -> None:
        """Draw what is there."""
        series = self.work.series
        quantity = "order" if series is None else series.order.quantity
        self.order_menu.setText(f"{quantity} ▾")
        parts: tuple[Callable[[], None], ...] = (
            self.left.show_picture,
            lambda: self.left.show_handles(self.hands),
            lambda: self.left.show_amounts(self.hands),
            self.right.show_pairs,
            self.right.show_windows,
            self.left.show_cursor,
            self._say,
        )
        self._turns.run([partial(self._draw, part) for part in parts], self.desk.has_much)

    def _draw(self, part: Callable[[], None]) -> None:
        """One view, unless the moment is another by now: then a refresh is due."""
        if self._is_of_now():
            part()

    def _is_of_now(self) -> bool:
        """Whether the series is that of the moment; else a refresh is due before anything is drawn of it."""
        moment = self.desk.moment
        return same((moment.found, moment.state.dataset, self.hands.code), self._of)

    def _take_series(self) -> None:
        moment = self.desk.moment
        series = series_of(moment.state, moment.found, self.hands.code)
        if series is None and self.hands.code:
            self.hands = replace(self.hands, code=0)
            series = series_of(moment.state, moment.found)
        self.work.take(series)
        if self.work.series is not None:
            self._begin(self.work.series)

    def _begin(self, series: Series) -> None:
        """A series is there: where a and b stand on it, and what is looked at."""
        before, self._before = self._before, series
        other = before is None or before.order is not series.order or before.code != series.code
        self.hands = first_hands(series, self.hands.code) if other else within(self.hands, series)
        self.work.ask_windows()
        self.work.ask_pairs(self.hands)
        self.work.ask_amounts(self.hands)

    def _on_told(self, name: str) -> None:
        """Something came from behind."""
        if not self._is_of_now():
            self.redraw()
            return
        if name == "series" and self.work.series is not None:
            self._begin(self.work.series)
            self.show_all()
        elif name == "pairs":
            self.right.show_pairs()
        elif name == "windows":
            self.right.show_windows()
        else:
            self.left.show_amounts(self.hands)
        self._say()

    def _say(self) -> None:
        series = self.work.series
        if series is None:
            words = "A series appears with the first model of samples in an order, five or more of them."
            if self.work.coming is not None:
                words = "The components of the series are being computed…"
            self.finding.show_pieces([(words, ())])
            return
        pieces = list(finding(series, self.work.mixture, self.work.windows))
        if self.work.preview and self.work.pairs is not None:
            pieces[-1:] = [
                ("; " + pairs_said(series, self.work.pairs, self.hands.wanted.name), ()),
                (".", ()),
            ]
        self.finding.show_pieces(pieces)

    def _on_live(self, changed: frozenset[str]) -> None:
        if changed & {"evaluation", "state", "trouble"}:
            self.redraw()

    def _on_selection(self, changed: frozenset[str]) -> None:
        if not self.isVisible() or not self._is_of_now():
            self.redraw()
            return
        if changed & {"channel"}:
            self.left.show_cursor()
        if changed & {"channels"} and self.right.top == "two":
            self.right.show_pairs()
        if changed & {"picked", "focus", "alone"}:
            self.left.emphasise()
            self.right.emphasise()

    # From hands to the page, the selection and the study

    def put_handle(self, which: int, position: float) -> None:
        """Put a (0) or b (1) at a position, with the width that it has."""
        series = self.work.series
        if series is None:
            return
        count = self.hands.at(which).count
        first = series.near(position) - (count - 1) // 2
        self.hands = self.hands.put(which, Stretch(first, first + count - 1).within(len(series.rows)))

    def _on_moving(self, which: int, position: float) -> None:
        self.put_handle(which, position)
        self.left.show_handles(self.hands)
        self.right.show_pair(self.hands)
        if self.work.preview:
            self.work.ask_amounts(self.hands)
        else:
            self.left.show_amounts(self.hands)

    def _on_moved(self, which: int, position: float) -> None:
        self._on_moving(which, position)
        series = self.work.series
        if series is not None:
            middles = [int(stretch.middle) for stretch in (self.hands.a, self.hands.b)]
            self.desk.selection.pick(series.rows[middles].tolist())

    def _on_pair(self, a: float, b: float) -> None:
        self.put_handle(0, a)
        self._on_moved(1, b)

    def go_to_best(self) -> None:
        """a and b to the pair whose difference is most like the reference."""
        series, pairs = self.work.series, self.work.pairs
        best = [] if pairs is None else pairs.best(1)
        if series is not None and best:
            self._on_pair(float(series.positions[best[0][0]]), float(series.positions[best[0][1]]))

    def set_width(self, width: int) -> None:
        """a and b as means of so many neighbours."""
        series = self.work.series
        if series is None:
            return
        for which in range(2):
            first = round(self.hands.at(which).middle - (width - 1) / 2.0)
            fresh = Stretch(first, first + width - 1).within(len(series.rows))
            self.hands = self.hands.put(which, fresh)
        self.left.show_handles(self.hands)
        self.work.ask_amounts(self.hands)

    def _compare(self, hands: Hands) -> None:
        """Another reference, or another way of comparing."""
        self.hands = hands
        self.left.show_handles(hands)
        self.work.ask_pairs(hands)

    def _on_peak(self, regions: tuple[tuple[float, float], ...]) -> None:
        """The reference peak is dragged: as wide at half its height as the region is."""
        if self.hands.wanted.kind == "peak" and len(regions) == 1:
            low, high = regions[0]
            self.references.want_peak_at(0.5 * (low + high), (high - low) / (2.0 * SIDES))

    def _on_hover(self, position: float) -> None:
        series = self.work.series
        if series is not None:
            self.desk.selection.change(hovered=int(series.rows[series.near(position)]))

    def _on_pick(self, position: float, modifiers: Any) -> None:
        series = self.work.series
        if series is not None:
            pick(self.desk.selection, [int(series.rows[series.near(position)])], modifiers)

    def rebuild(self) -> None:
        """A knot on the trail: rebuilt from the components that go along the order."""
        acts.rebuild(self.desk, self.work.series)

    def watch_from_a(self) -> None:
        """The samples from a on make no part of the model and are shown on it, against its limits."""
        if acts.watch_from(self.desk, self.work.series, self.hands.a.first):
            self.hands = replace(self.hands, a=Stretch(0, self.hands.a.count - 1))
            self.redraw()

    def shifts_as_column(self) -> None:
        """How far each spectrum was shifted, as a property: another region or series is shifted by it."""
        acts.shifts_as_column(self.desk)

    def show_two_variables(self) -> None:
        """Two variables against each other, joined in their order."""
        self.right.choose_top("two")

    def look_at(self, code: int) -> None:
        """Another of several series."""
        self.hands = replace(self.hands, code=code)
        self.refresh()
