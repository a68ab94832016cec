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

SLOTS = {"smooth": "maps smooth", "groups": "maps groups"}


class MapsBehind:
    """Asked again for the same model it answers at once; `arrived` is called when it can."""

    def __init__(self, desk: Desk, arrived: Callable[[], None]) -> None:
        self._desk, self._arrived = desk, arrived
        self._kept: dict[str, tuple[object, float, Behind]] = {}
        self._asked: dict[str, tuple[object, float]] = {}
        self.words = ""

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
        """What is to be said beside a smooth component."""
        kept = self._kept.get("smooth")
        if subject.kind != "smooth" or kept is None or kept[2].autocorrelation is None:
            return ""
        own = float(kept[2].autocorrelation[min(subject.component, len(kept[2].autocorrelation) - 1)])
        words = "above" if own > kept[2].limit else "within"
        return f" · autocorrelation {own:.2f}, {words} the limit of noise {kept[2].limit:.2f}"

    def _ask(self, found: Evaluation, grid: PixelGrid, subject: Subject, wanted: tuple[Any, float]) -> None:
        self.words = "The map is being computed."

        def work(watch: Watch) -> Behind:
            if subject.kind == "smooth":
                return smooth_of(found, grid, watch)
            return groups_of(found, int(subject.which[0]), watch)

        def done(answer: Any) -> None:
            if isinstance(answer, InputError):
                self.words = str(answer)
            elif isinstance(answer, Exception):
                raise answer
            elif self._asked.get(subject.kind) == wanted:
                self._kept[subject.kind] = (wanted[0], wanted[1], answer)
            self._arrived()

        self._desk.live.ask(SLOTS[subject.kind], None, work, done)
