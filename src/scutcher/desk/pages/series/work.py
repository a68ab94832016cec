"""What a series page has computed: the pairs, the windows, the amounts; at once where light, else behind."""

from __future__ import annotations

import importlib
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

from msgspec.structs import replace as changed

from scutcher.core.errors import InputError
from scutcher.core.progress import Watch
from scutcher.core.recipes.unmix_settings import Shape, UnmixSettings
from scutcher.core.series.evolving_rank import EvolvingRank
from scutcher.core.series.likeness import Pairs, PairSearch
from scutcher.core.unmixing.mixture import Mixture
from scutcher.desk.context import Desk
from scutcher.desk.pages.series.hands import Hands, reference_of
from scutcher.study.evaluation.series import MOST_PAIRED, Series, mixture_of

BANDS = 0.1
"""How much a pair of channels counts beside the values: the bands look at every two."""

AT_ONCE = 40_000
"""Values of a series up to which amounts are found on the spot, while a handle is dragged."""

LIGHT = 2e7
"""Multiplications of the components of a series up to which they are computed on the spot."""


@dataclass(eq=False)
class SeriesWork:
    """Asks for what is looked at; `told` hears what came: "series", "windows", "pairs" or "amounts".

    Attributes
    ----------
    series : Series or None
        Its components are known.
    coming : Series or None
        One whose components are computed behind.
    windows, pairs, mixture : what is there of it
    """

    desk: Desk
    told: Callable[[str], None]
    series: Series | None = None
    coming: Series | None = None
    windows: EvolvingRank | None = None
    pairs: Pairs | None = None
    mixture: Mixture | None = None
    _search: tuple[Any, PairSearch] | None = None
    _kept: dict[str, Any] = field(default_factory=dict)

    @property
    def preview(self) -> bool:
        """Whether the amounts are of a and b, not of shapes that were kept."""
        return not self.desk.moment.recipe.unmix.asks

    def take(self, series: Series | None) -> None:
        """Another series, or the same treated in another way; a long one is told of when it is there."""
        self.series = self.coming = None
        self.windows = self.pairs = self.mixture = self._search = None
        self._kept.clear()
        if series is None or series.values.size * min(series.values.shape) <= LIGHT:
            self.series = series
            return
        self.coming = series

        def ended(answer: Any) -> None:
            if isinstance(answer, Exception):
                raise answer
            if self.coming is series:
                self.series, self.coming = series, None
                self.told("series")

        def work(watch: Watch) -> object:
            importlib.import_module("scipy.interpolate")  # for a reference: it takes long to load
            return series.components

        self.desk.live.ask("series components", None, work, ended)

    def ask_windows(self) -> None:
        """Growing windows; once for each series."""
        series = self.series
        if series is None or self.windows is not None or len(series.rows) < 5:
            return
        self._behind("windows", series.windows, self._set_windows)

    def _set_windows(self, found: EvolvingRank) -> None:
        self.windows = found

    def ask_pairs(self, hands: Hands) -> None:
        """Every pair against the reference of now; the newest wins."""
        series = self.series
        if series is None:
            return
        key = (hands.degree, hands.shift, hands.stretch, hands.all_components, hands.kept)
        known = self._search[1] if self._search is not None and self._search[0] == key else None

        def work(watch: Watch | None = None) -> tuple[PairSearch, Pairs]:
            k = None if hands.all_components else max(series.components.suggested, 1)
            search = known or series.search(k, hands.degree, hands.shift, hands.kept, hands.stretch)
            return search, search.pairs(reference_of(series, hands.wanted), signed=hands.signed)

        def done(answer: tuple[PairSearch, Pairs]) -> None:
            self._search = (key, answer[0])
            self.pairs = answer[1]

        if len(series.rows) > MOST_PAIRED:
            error = InputError("Too long to compare every pair.", "Look at one series at a time.")
            self._arrived("pairs", done, error)
            return
        if known is not None and len(series.rows) ** 2 <= AT_ONCE and not hands.shift:
            self._now("pairs", work, done)
        else:
            self._behind("pairs", work, done)

    def settings(self, hands: Hands) -> UnmixSettings:
        """Those of the study; before there are any, a and b as they stand."""
        series, kept = self.series, self.desk.moment.recipe.unmix
        if kept.asks or series is None:
            return kept
        shapes = tuple(
            Shape(name=f"{name} ({stretch.said(series)})", samples=stretch.ids(series))
            for name, stretch in (("a", hands.a), ("b", hands.b))
        )
        return changed(kept, shapes=shapes, rule="free" if kept.rule == "not-negative" else kept.rule)

    def ask_amounts(self, hands: Hands) -> None:
        """Amounts of the shapes, or of a and b while there are none."""
        series = self.series
        if series is None or not (series.has_amounts or self.desk.moment.recipe.unmix.asks):
            self.mixture = None
            return
        settings, found, order = self.settings(hands), series.found, series.order

        def work(watch: Watch | None = None) -> Mixture:
            return mixture_of(found, order, settings, watch)

        def done(answer: Mixture) -> None:
            self.mixture = answer

        n, p = found.treated.values.shape
        if settings.number is None and n * p + BANDS * p * p <= AT_ONCE:
            self._now("amounts", work, done)
        else:
            self._behind("amounts", work, done)

    def _now(self, name: str, work: Callable[..., Any], done: Callable[[Any], None]) -> None:
        try:
            answer: Any = work()
        except InputError as error:
            answer = error
        self._arrived(name, done, answer)

    def _behind(self, name: str, work: Callable[..., Any], done: Callable[[Any], None]) -> None:
        series = self.series

        def ended(answer: Any) -> None:
            if isinstance(answer, Exception) and not isinstance(answer, InputError):
                raise answer
            if self.series is series:
                self._arrived(name, done, answer)

        self.desk.live.ask(f"series {name}", None, work, ended)

    def _arrived(self, name: str, done: Callable[[Any], None], answer: Any) -> None:
        if isinstance(answer, InputError):
            self._kept[name] = answer
            if name == "amounts":
                self.mixture = None
            elif name == "pairs":
                self.pairs = None
        else:
            self._kept.pop(name, None)
            done(answer)
        self.told(name)

    def why_not(self, name: str) -> str:
        """Why something is not there, in a sentence; "" where it is, or still to come."""
        error = self._kept.get(name)
        return "" if error is None else f"{error.problem} {error.remedy}".strip()
