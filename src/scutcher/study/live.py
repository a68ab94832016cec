"""The model of the study, always up to date: small ones at once, large ones behind."""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import replace
from typing import Any

import numpy as np

from scutcher.core.decomposition import Decomposition, agree_with
from scutcher.core.errors import InputError
from scutcher.core.progress import Stopped, Watch
from scutcher.core.recipe import Recipe
from scutcher.core.table import Table
from scutcher.core.validation import MOST
from scutcher.study.callbacks import Announcer
from scutcher.study.evaluator import Evaluation, Evaluator
from scutcher.study.jobs import NewestWins, Post
from scutcher.study.study import Study
from scutcher.study.validating import Checked, check, halves_line, permuted_line

AT_ONCE = 4e7
"""Work below this many multiplications is done on the spot: it takes less than a frame or two."""

AHEAD = 30
"""Components that are computed, so that the handle can be dragged over them at once."""

QUIET, QUIET_STEPS = 0.15, 5
"""Seconds without a change before the validation starts."""

LIGHT = 3e8
"""Multiplications of a fit up to which the slow lines of evidence are computed unasked."""

KEPT_CHECKS = 40

TURNED = 30
"""Components whose sign is held steady while somebody works."""


class LiveModel(Announcer):
    """Follows a study; announces "evaluation" when there is a new one and "trouble" when there is none.

    Attributes
    ----------
    evaluation : Evaluation or None
        The latest that could be computed; stays when a later one fails.
    trouble : InputError or None
        Why the current state has no model.
    busy : bool
        Whether something is being computed behind.
    progress : float or None
        How far a slow treatment is, from 0 to 1.
    checked : Checked or None
        Validation and lines of evidence of the evaluation, once they are there ("checked" is announced).
    checking : float or None
        How far they are, from 0 to 1; None when nothing is under way.
    brought : (Table, bool) or None
        New samples to be shown on the model, and whether their axis may be resampled.
    thorough : bool
        Whether the slow lines of evidence are wanted for large data too.
    """

    def __init__(self, study: Study, post: Post, start: bool = True) -> None:
        super().__init__()
        self.study = study
        self.evaluation: Evaluation | None = None
        self.trouble: InputError | None = None
        self.busy = False
        self._evaluator = Evaluator(ahead=AHEAD)
        self._jobs = NewestWins(post)
        self._checks = NewestWins(post)
        self._asides = NewestWins(post)
        self._aside_evaluator = Evaluator()
        self._aside_ticket = 0
        self._post = post
        self.checked: Checked | None = None
        self.checking: float | None = None
        self.thorough = False
        self._ticket = 0
        self.progress: float | None = None
        self.brought: tuple[Table, bool] | None = None
        self._checked_for: object = None
        self._kept_checks: dict[object, Checked] = {}
        self._turned: tuple[Decomposition, Decomposition] | None = None
        self._leave = study.subscribe(self._on_study)
        if start:
            self.refresh()

    def close(self) -> None:
        """Stop listening and computing."""
        self._leave()
        self._checked_for = None
        self._jobs.close()
        self._aside_ticket += 1
        self._checks.close()
        self._asides.close()

    def refresh(self) -> None:
        """Bring the model up to the study's state."""
        self._request(self.study.state.recipe)

    def preview(self, recipe: Recipe) -> None:
        """Show what a recipe would give, without a command: for a handle that is still held."""
        self._request(recipe)

    def _on_study(self, changed: frozenset[str]) -> None:
        if changed & {"table", "recipe"}:
            self.refresh()

    def _request(self, recipe: Recipe) -> None:
        table = self.study.state.table
        if table is None:
            self._jobs.drop()
            self.evaluation, self.trouble, self.busy = None, None, False
            self.checked, self.checking, self._checked_for = None, None, None
            self.announce({"evaluation", "trouble"})
            return
        work = self._work(table, recipe)
        n, p = table.shape
        if n * p * min(n, p) <= AT_ONCE:
            self._jobs.drop()
            try:
                answer: Evaluation | InputError = work()
            except InputError as error:
                answer = error
            self._take(answer)
        else:
            self.busy, self.progress = True, None
            self.announce({"busy"})
            self._jobs.submit(work, self._take)

    def _work(self, table: Table, recipe: Recipe) -> Callable[[], Evaluation]:
        self._ticket += 1
        ticket = self._ticket

        def watch(share: float) -> bool:
            """Slow treatments tell how far they are, and give up when a newer request is there."""
            self._post(lambda: self._on_share(share, ticket))
            return self._ticket == ticket

        return lambda: self._evaluator.evaluate(table, recipe, lenient=True, watch=watch)

    def _on_share(self, share: float, ticket: int) -> None:
        if self._ticket == ticket and self.busy:
            self.progress = share
            self.announce({"progress"})

    def _take(self, answer: Evaluation | Exception) -> None:
        was_busy, self.busy = self.busy, False
        if isinstance(answer, Stopped):
            return  # overtaken: the newer request draws
        changed = {"busy"} if was_busy else set()
        if isinstance(answer, InputError):
            self.trouble = answer
            self.announce(changed | {"trouble"})
            return
        if isinstance(answer, Exception):
            raise answer
        self.evaluation = self._steady(answer)
        self.check()
        if self.trouble is not None:
            self.trouble = None
            changed |= {"trouble"}
        self.announce(changed | {"evaluation"})

    def check(self) -> None:
        """Validate the evaluation behind, unless that is done or under way; the newest wins."""
        found = self.evaluation
        if found is None:
            return
        wanted = (
            found.key,
            found.recipe.validate,
            found.recipe.evidence,
            max(found.model.k, MOST),
            self.thorough,
        )
        if wanted == self._checked_for:
            return
        self._checked_for = wanted
        kept = self._kept_checks.get(wanted)
        self.checked, self.checking = kept, None if kept else 0.0
        self.announce({"checked"})
        if kept is None:
            self._checks.submit(
                lambda: self._check(found, wanted), lambda answer: self._on_checked(answer, wanted)
            )

    def _check(self, found: Evaluation, wanted: object) -> object:
        """On the thread behind: what is known so far is told as it comes."""

        def watch(share: float) -> bool:
            self._post(lambda: self._on_progress(share, wanted))
            return self._checked_for == wanted

        if self._waited_too_short(wanted):
            raise Stopped
        checked = check(found, lambda share: watch(0.4 * share))
        if self._is_light(found) or self.thorough:
            self._post(lambda: self._on_part(checked, wanted))
            permuted = permuted_line(found, lambda share: watch(0.4 + 0.4 * share))
            checked = replace(checked, lines={**checked.lines, permuted.key: permuted})
            halves = halves_line(found, lambda share: watch(0.8 + 0.2 * share))
            checked = replace(checked, lines={**checked.lines, halves.key: halves})
        return checked

    def _waited_too_short(self, wanted: object) -> bool:
        """Wait a moment: while a slider moves nobody wants a validation of each step."""
        for _ in range(QUIET_STEPS):
            time.sleep(QUIET / QUIET_STEPS)
            if self._checked_for != wanted:
                return True
        return False

    def _is_light(self, found: Evaluation) -> bool:
        return found.z.size * min(found.z.shape) <= LIGHT and not np.isnan(found.treated.values.sum())

    def _on_part(self, checked: Checked, wanted: object) -> None:
        if self._checked_for == wanted:
            self.checked = checked
            self.announce({"checked"})

    def _on_progress(self, share: float, wanted: object) -> None:
        if self._checked_for == wanted:
            self.checking = share
            self.announce({"checking"})

    def _on_checked(self, answer: object, wanted: object) -> None:
        if self._checked_for != wanted or isinstance(answer, Stopped):
            return
        if isinstance(answer, InputError):
            answer = Checked(None, str(answer), {})
        if isinstance(answer, Exception):
            raise answer
        assert isinstance(answer, Checked)
        self.checked, self.checking = answer, None
        if len(self._kept_checks) > KEPT_CHECKS:
            self._kept_checks.clear()
        self._kept_checks[wanted] = answer
        self.announce({"checked"})

    def aside(self, work: Callable[[Watch], Any], done: Callable[[Any], None]) -> None:
        """Compute something beside the model, behind; the newest request wins, also over one under way."""
        self._aside_ticket += 1
        ticket = self._aside_ticket
        self._asides.submit(lambda: work(lambda share: self._aside_ticket == ticket), done)

    def evaluate(self, table: Table, recipe: Recipe) -> Evaluation:
        """An evaluation beside the live one, for what runs aside."""
        return self._aside_evaluator.evaluate(table, recipe, lenient=True)

    def bring(self, table: Table | None, resample: bool = False) -> None:
        """Put new samples on the model, or send them away; announces "newcomers"."""
        self.brought = None if table is None else (table, resample)
        self.announce({"newcomers"})

    def stop_checking(self) -> None:
        """Nobody wants the validation that is under way."""
        self._checked_for, self.checking = None, None
        self._checks.drop()
        self.announce({"checked"})

    def _steady(self, fresh: Evaluation) -> Evaluation:
        """The fresh evaluation, its components turned to agree with those on screen."""
        raw = fresh.decomposition
        if self._turned is None or raw is not self._turned[0]:
            shown = self.evaluation
            turned = raw
            if shown is not None and _same_things(shown, fresh):
                turned = agree_with(raw, shown.decomposition.loadings[:, :TURNED])
            self._turned = (raw, turned)
        return replace(fresh, model=replace(fresh.model, decomposition=self._turned[1]))


def _same_things(shown: Evaluation, fresh: Evaluation) -> bool:
    """Whether two evaluations are of the same samples and their loadings can be compared."""
    same_size = len(shown.decomposition.loadings) == len(fresh.decomposition.loadings)
    return (
        same_size
        and shown.table.ids == fresh.table.ids
        and shown.table.axis.labels == fresh.table.axis.labels
    )
