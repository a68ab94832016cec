"""Assigns left-out samples behind: what was found for the same inputs is at hand at once."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from scutcher.charts.memo import same
from scutcher.core.errors import InputError
from scutcher.core.progress import Watch
from scutcher.core.validation.held_out_scores import HeldOutScores
from scutcher.desk.context import Desk
from scutcher.study.evaluation.checks import checks_key
from scutcher.study.evaluation.grouping import Grouping, HeldOutGroups, held_out_groups, with_p_value

SLOT, CHANCE = "groups held out", "groups permuted"


class Judging:
    """The held-out side of a grouping.

    Attributes
    ----------
    held : HeldOutGroups or None
        None while it is computed, or where it cannot be.
    trouble : str
        Why it cannot be.
    share : float or None
        How far the work is.
    """

    def __init__(self, desk: Desk, arrived: Callable[[], object], progressed: Callable[[], object]) -> None:
        self._desk, self._arrived, self._progressed = desk, arrived, progressed
        self.held: HeldOutGroups | None = None
        self.trouble = ""
        self.share: float | None = None
        self._inputs: tuple[Any, ...] = ()
        self._scores_of: tuple[Any, ...] = ()
        self._scores: HeldOutScores | None = None

    def judge(self, grouping: Grouping) -> None:
        """Ask for what is not known yet; the newest grouping wins."""
        found = grouping.found
        inputs = (checks_key(found), found.model.k, grouping.codes, grouping.settings)
        if len(inputs) == len(self._inputs) and all(map(_alike, inputs, self._inputs)):
            return
        self._inputs, self.held, self.trouble, self.share = inputs, None, "", 0.0
        scores_of = (checks_key(found),)
        known = self._scores if scores_of == self._scores_of else None
        if known is not None and found.model.k > known.most:
            known = None

        def work(watch: Watch) -> HeldOutGroups:
            return held_out_groups(grouping, known, watch)

        def done(answer: Any) -> None:
            if inputs is not self._inputs:
                return
            self.share = None
            if isinstance(answer, InputError):
                self.trouble = str(answer)
            elif isinstance(answer, Exception):
                raise answer
            else:
                self.held, self._scores, self._scores_of = answer, answer.scores, scores_of
                self._ask_chance(grouping, answer, inputs)
            self._arrived()

        def told(share: float) -> None:
            if share and share != self.share:
                self.share = share
                self._progressed()

        self._desk.live.ask(SLOT, None, work, done, told)

    def _ask_chance(self, grouping: Grouping, held: HeldOutGroups, inputs: tuple[Any, ...]) -> None:
        def work(watch: Watch) -> HeldOutGroups:
            return with_p_value(grouping, held, watch)

        def done(answer: Any) -> None:
            if inputs is not self._inputs or isinstance(answer, InputError):
                return
            if isinstance(answer, Exception):
                raise answer
            self.held = answer
            self._arrived()

        self._desk.live.ask(CHANCE, None, work, done)


def _alike(one: Any, two: Any) -> bool:
    return same(one, two) or (not hasattr(one, "shape") and one == two)
