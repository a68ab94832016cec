"""The checks of the model of the moment, computed behind: validation, then the lines of evidence."""

from __future__ import annotations

import time
from collections.abc import Callable, Hashable
from functools import partial

from scutcher.core.progress import Watch, tell
from scutcher.core.validation.cross_validation import MOST
from scutcher.core.validation.evidence import KEYS
from scutcher.study.evaluation.cache import shared
from scutcher.study.evaluation.checks import (
    Checked,
    check,
    checks_key,
    validated,
    with_quick_lines,
    with_slow_lines,
)
from scutcher.study.evaluation.evaluation import Evaluation
from scutcher.study.evaluation.stability import stability_of
from scutcher.study.work import Priority, Queue, Request, Work

QUIET, QUIET_STEPS = 0.15, 5
"""Seconds without a change before the validation starts."""

LIGHT = 3e8
"""Multiplications of a fit up to which the slow lines of evidence are computed unasked."""

QUICK = len(KEYS) - 2
"""Lines of evidence that need no further fits: all but those of permuted data and of halves."""

SLOT = "checks"
"""Of the queue."""


class RunningChecks:
    """Of one model at a time, the newest.

    Attributes
    ----------
    share : float or None
        How far they are, from 0 to 1; None when nothing is under way.
    thorough : bool
        Whether the slow lines of evidence are wanted for large data too.

    Parameters
    ----------
    queue : Queue
    moved : called when `share` is another
    arrived : gets what is known by now of the model, first the validation alone, in the end all
    """

    def __init__(
        self, queue: Queue, moved: Callable[[], object], arrived: Callable[[Checked], object]
    ) -> None:
        self._queue, self._moved, self._arrived = queue, moved, arrived
        self.share: float | None = None
        self.thorough = False
        self._of: Hashable = None
        self._newest: Evaluation | None = None

    def known(self, found: Evaluation, shown: Checked | None) -> Checked | None:
        """What is known already of a model; `shown` is of the one that was checked last."""
        wanted = _wanted(found)
        if shown is not None and wanted == self._of:
            return shown
        kept: Checked | None = shared().find(wanted)
        return kept

    def begin(self, found: Evaluation, known: Checked | None) -> None:
        """Find out what is not known yet of a model, unless that is under way."""
        wanted = _wanted(found)
        same, self._of = wanted == self._of, wanted
        self._newest = found  # with more components computed, perhaps
        if same and self.share is not None:
            return
        if known is None:
            self.share = 0.0
            self._moved()
            self._ask(lambda watch: _check_soon(self._newest or found, watch), found)
        elif not same:
            self._queue.drop(SLOT)
            self.share = None
            self._take(found, known)
        elif self._following(found, known):
            self._take(found, known)

    def drop(self) -> None:
        """Nobody wants what is under way."""
        self._queue.drop(SLOT)
        self._of, self.share, self._newest = None, None, None

    def _ask(self, work: Work, found: Evaluation) -> None:
        done = partial(self._take, found)
        self._queue.ask(Request(SLOT, None, Priority.CHECKS, work, done, self._move))

    def _move(self, share: float) -> None:
        self.share = share
        self._moved()

    def _take(self, found: Evaluation, answer: Checked | Exception) -> None:
        """The validation is there; of much data the lines come after it, and after them the slow ones."""
        if isinstance(answer, Exception):
            self._stop()
            raise answer
        following = self._following(found, answer)
        if following is not None:
            self.share = self.share or 0.0
            self._ask(lambda watch: following(self._newest or found, answer, watch), found)
        else:
            self.share = None
            shared().put(self._of, answer, _size(answer))
        self._arrived(answer)

    def _stop(self) -> None:
        self.share = None
        self._moved()

    def _following(self, found: Evaluation, known: Checked) -> Callable[..., Checked] | None:
        """What is still to be found out."""
        if len(known.lines) < QUICK:
            return with_quick_lines
        light = found.scaled.work <= LIGHT or self.thorough
        is_whole = len(known.lines) == len(KEYS) or found.treated.has_gaps
        return with_slow_lines if light and not is_whole else None


def _wanted(found: Evaluation) -> Hashable:
    return "checks", checks_key(found), max(found.model.k, MOST)


def _check_soon(found: Evaluation, watch: Watch) -> Checked:
    """Validate after a moment."""
    wait_for_quiet(watch)
    checked = validated(found, watch) if found.scaled.work > LIGHT else check(found, watch)
    stability_of(found, checked)  # views ask for it at once, and of very many samples it takes some frames
    return checked


def _size(checked: Checked) -> int:
    found = checked.components
    return found.scores.nbytes + found.loadings.nbytes


def wait_for_quiet(watch: Watch) -> None:
    """While a slider moves nobody wants what takes long of each of its places.

    Raises
    ------
    Stopped
        Something else is wanted by now.
    """
    for _ in range(QUIET_STEPS):
        time.sleep(QUIET / QUIET_STEPS)
        tell(watch, 0.0)
