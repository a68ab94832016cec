"""What maps need that takes longer than a frame: components by smoothness, groups of pixels."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from scutcher.charts.pixels import Subject
from scutcher.core.errors import InputError
from scutcher.core.progress import Watch
from scutcher.desk.context import Desk
from scutcher.study.evaluation.evaluation import Evaluation
from scutcher.study.evaluation.pixels import Behind, PixelGrid, groups_of, smooth_of
from scutcher.study.evaluation.saving import saved_model
from scutcher.study.evaluation.whole_image import WholeMaps, go_over

SHARE_SHOWN = 0.03
"""Share of the work after which the maps are drawn again."""

SLOTS = {"smooth": "maps smooth", "groups": "maps groups"}


class MapsBehind:
    """Asked again for the same model it answers at once; `arrived` is called when it can."""

    def __init__(self, desk: Desk, arrived: Callable[[], None]) -> None:
        self._desk, self._arrived = desk, arrived
        self._kept: dict[str, tuple[object, float, Behind]] = {}
        self._asked: dict[str, tuple[object, float]] = {}
        self.words = ""
        self.whole: WholeMaps | None = None
        self._whole_of: object = None

    def of(self, found: Evaluation, grid: PixelGrid, subject: Subject) -> Behind:
        """What there is for a subject; empty while it is being computed."""
        if subject.kind not in SLOTS:
            return Behind()
        wanted = (found.model, subject.which[0] if subject.kind == "groups" else 0.0)
        kept = self._kept.get(subject.kind)
        if kept is not None and kept[0] is wanted[0] and kept[1] == wanted[1]:
            return kept[2]
        if self._asked.get(subject.kind) != wanted:
            self._asked[subject.kind] = wanted
            self._ask(found, grid, subject, wanted)
        return Behind()

    @property
    def smooth(self) -> Behind:
        """The components by smoothness as far as they are known."""
        kept = self._kept.get("smooth")
        return Behind() if kept is None else kept[2]

    def said(self, subject: Subject) -> str:
        """What is to be said beside a smooth component, or of a number of groups."""
        if subject.kind == "groups":
            return self._of_groups(int(subject.which[0]))
        kept = self._kept.get("smooth")
        if subject.kind != "smooth" or kept is None or kept[2].autocorrelation is None:
            return ""
        own = float(kept[2].autocorrelation[min(subject.component, len(kept[2].autocorrelation) - 1)])
        words = "above" if own > kept[2].limit else "within"
        return f" · autocorrelation {own:.2f}, {words} the limit of noise {kept[2].limit:.2f}"

    def _of_groups(self, count: int) -> str:
        """Two lines on the number, side by side."""
        kept = self._kept.get("groups")
        judged = None if kept is None else kept[2].judged
        if judged is None or count not in judged.counts:
            return ""
        at = judged.counts.index(count)
        return (
            f"silhouette {judged.silhouette[at]:.2f}, largest with {judged.clearest} · halves agree "
            f"{judged.strength[at]:.2f}, up to {judged.most_found_again} found again"
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

        state = moment.state
        self._desk.live.ask(
            "maps whole", None, lambda watch: go_over(state, found, model, started, watch), done, told
        )

    def whole_of(self, found: Evaluation) -> WholeMaps | None:
        """The maps of all pixels, as far as they are there, where they are of this model."""
        return self.whole if self._whole_of is found.model else None

    def _ask(self, found: Evaluation, grid: PixelGrid, subject: Subject, wanted: tuple[Any, float]) -> None:
        self.words = "The map is being computed."
        kept = self._kept.get("groups")
        judged = kept[2].judged if kept is not None and kept[0] is wanted[0] else None

        def work(watch: Watch) -> Behind:
            if subject.kind == "smooth":
                return smooth_of(found, grid, watch)
            return groups_of(found, int(subject.which[0]), judged, watch)

        def done(answer: Any) -> None:
            if isinstance(answer, InputError):
                self.words = str(answer)
            elif isinstance(answer, Exception):
                raise answer
            elif self._asked.get(subject.kind) == wanted:
                self._kept[subject.kind] = (wanted[0], wanted[1], answer)
            self._arrived()

        self._desk.live.ask(SLOTS[subject.kind], None, work, done)
