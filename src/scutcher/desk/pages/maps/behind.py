"""What maps need that takes longer than a frame: components by smoothness, groups of pixels."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import Any

from scutcher.charts.pixels import Subject
from scutcher.core.errors import InputError
from scutcher.core.progress import Watch
from scutcher.core.words import shown
from scutcher.desk.context import Desk
from scutcher.study.cluster import measures_at
from scutcher.study.evaluation.evaluation import Evaluation
from scutcher.study.evaluation.pixel_passes import Behind, amounts_of, groups_of, smooth_of
from scutcher.study.evaluation.pixels import PixelGrid
from scutcher.study.evaluation.saving import saved_model
from scutcher.study.evaluation.whole_image import WholeMaps, go_over
from scutcher.study.storage.settings import settings

SHARE_SHOWN = 0.03
"""Share of the work after which the maps are drawn again."""

KINDS = ("smooth", "groups", "amount")

Key = tuple[str, float]
"""A kind, and the number of groups: two maps may show different numbers."""

SMOOTH: Key = ("smooth", 0.0)


def key_of(subject: Subject) -> Key:
    """What a subject needs: smooth components and amounts come at once, groups for each number."""
    if subject.kind == "amount":
        return ("amount", 0.0)
    return ("groups", subject.which[0]) if subject.kind == "groups" else SMOOTH


class MapsBehind:
    """Asked again for the same model it answers at once; `arrived` is called when it can."""

    def __init__(self, desk: Desk, arrived: Callable[[], None]) -> None:
        self._desk, self._arrived = desk, arrived
        self._kept: dict[Key, tuple[object, Behind]] = {}
        self._asked: dict[Key, object] = {}
        self.words = ""
        self.whole: WholeMaps | None = None
        self._whole_of: object = None

    def of(self, found: Evaluation, grid: PixelGrid, subject: Subject) -> Behind:
        """What there is for a subject; empty while it is being computed."""
        if subject.kind not in KINDS:
            return Behind()
        key = key_of(subject)
        known = self._known(found, key)
        if known is not None:
            return known
        if self._asked.get(key) is not self._source(found, key):
            self._asked[key] = self._source(found, key)
            self._ask(found, grid, key)
        return Behind()

    @staticmethod
    def _source(found: Evaluation, key: Key) -> object:
        """What it is computed from: amounts from shapes too."""
        return found if key[0] == "amount" else found.model

    @property
    def smooth(self) -> Behind:
        """The components by smoothness as far as they are known."""
        return self._known(self._desk.moment.found, SMOOTH) or Behind()

    def _known(self, found: Evaluation | None, key: Key) -> Behind | None:
        """What was computed of a model; of another it says nothing."""
        kept = self._kept.get(key)
        if kept is None or found is None or kept[0] is not self._source(found, key):
            return None
        return kept[1]

    def said(self, subject: Subject) -> str:
        """What is to be said beside a smooth component, or of a number of groups."""
        if subject.kind == "groups":
            return self._of_groups(int(subject.which[0]))
        smooth = self.smooth
        if subject.kind != "smooth" or smooth.autocorrelation is None:
            return ""
        own = float(smooth.autocorrelation[min(subject.component, len(smooth.autocorrelation) - 1)])
        words = "above" if own > smooth.limit else "within"
        return (
            f" · autocorrelation {shown(own, '.2f')}, {words} the limit of noise {shown(smooth.limit, '.2f')}"
        )

    def _of_groups(self, count: int) -> str:
        """Two lines on the number, side by side."""
        known = self._known(self._desk.moment.found, ("groups", float(count)))
        judged = None if known is None else known.judged
        if judged is None or count not in judged.counts:
            return ""
        at = judged.counts.index(count)
        return (
            f"silhouette {shown(judged.silhouette[at], '.2f')}, largest with {judged.clearest} · "
            f"halves agree {shown(judged.strength[at], '.2f')}, up to {judged.most_found_again} found again"
        )

    def go_over(self, on: bool) -> None:
        """All pixels of the file on the model of now, or no more."""
        self.whole, self._whole_of = None, None
        moment = self._desk.moment
        if not on or moment.found is None:
            self._arrived()
            return
        found, model = moment.found, saved_model(moment.found, moment.checked)
        self._whole_of = mine = found.model

        def started(maps: WholeMaps) -> None:
            if self._whole_of is mine:
                self.whole = maps

        def done(answer: Any) -> None:
            if isinstance(answer, InputError):
                self._desk.say(answer)
            elif isinstance(answer, Exception):
                raise answer
            self._arrived()

        seen = [0.0]

        def told(share: float) -> None:
            if share - seen[0] >= SHARE_SHOWN:
                seen[0] = share
                self._arrived()

        state, address = moment.state, settings().cluster
        elsewhere = partial(measures_at, address) if address else None

        def work(watch: Watch) -> WholeMaps:
            return go_over(state, found, model, started, watch, elsewhere)

        self._desk.live.ask("maps whole", None, work, done, told)

    def whole_of(self, found: Evaluation) -> WholeMaps | None:
        """The maps of all pixels, as far as they are there, where they are of this model."""
        return self.whole if self._whole_of is found.model else None

    def _ask(self, found: Evaluation, grid: PixelGrid, key: Key) -> None:
        self.words = "The map is being computed."
        kind, count = key
        of_model = (kept for kept in self._kept.values() if kept[0] is found.model)
        judged = next((behind.judged for _, behind in of_model if behind.judged is not None), None)

        def work(watch: Watch) -> Behind:
            if kind == "smooth":
                return smooth_of(found, grid, watch)
            if kind == "amount":
                return amounts_of(found, watch)
            return groups_of(found, int(count), judged, watch)

        def done(answer: Any) -> None:
            if isinstance(answer, InputError):
                self.words = str(answer)
            elif isinstance(answer, Exception):
                raise answer
            elif self._asked.get(key) is self._source(found, key):
                self._kept[key] = (self._source(found, key), answer)
            self._arrived()

        self._desk.live.ask(f"maps {kind} {count:g}", None, work, done)
