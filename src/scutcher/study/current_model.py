"""The model of the study, always up to date: small ones at once, large ones behind."""

from __future__ import annotations

import time
from collections.abc import Callable
from dataclasses import replace
from functools import partial
from typing import Any

from scutcher.core.data.table import Table
from scutcher.core.errors import InputError
from scutcher.core.models.pca.decomposition import Decomposition, agree_with
from scutcher.core.progress import Watch, tell
from scutcher.core.recipes.recipe import Recipe
from scutcher.core.validation.cross_validation import MOST
from scutcher.core.validation.evidence import KEYS
from scutcher.study.document.announcer import Announcer
from scutcher.study.document.study import Study
from scutcher.study.evaluation.checks import Checked, check, validated, with_quick_lines, with_slow_lines
from scutcher.study.evaluation.evaluation import Evaluation, Staged
from scutcher.study.evaluation.evaluator import Evaluator
from scutcher.study.jobs import NewestWins, Post, Work
from scutcher.study.turns import Turns

AT_ONCE = 4e7
"""Work below this many multiplications is done on the spot: it takes less than a frame or two."""

AHEAD = 30
"""Components that are computed, so that the handle can be dragged over them at once."""

QUIET, QUIET_STEPS = 0.15, 5
"""Seconds without a change before the validation starts."""

LIGHT = 3e8
"""Multiplications of a fit up to which the slow lines of evidence are computed unasked."""

QUICK = len(KEYS) - 2
"""Lines of evidence that need no further fits: all but those of permuted data and of halves."""

KEPT_CHECKS = 40

TURNED = 30
"""Components whose sign is held steady while somebody works."""


class LiveModel(Announcer):
    """Follows a study; announces "evaluation" when there is a new one and "trouble" when there is none.

    Of large data the treated tables are there before the model, and the components asked for before those
    computed ahead: "staged" and "early" are announced then.

    Attributes
    ----------
    evaluation : Evaluation or None
        The latest that could be computed; stays when a later one fails.
    staged : Evaluation or None
        The latest with the treated tables of the one being computed, for a look at those; its model is not
        theirs.
    early : Evaluation or None
        The one being computed with the components asked for and no more; no limit of Q yet.
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
        self.staged: Evaluation | None = None
        self.early: Evaluation | None = None
        self.trouble: InputError | None = None
        self.busy = False
        self._post, self._wanted = post, object()
        self._evaluator = Evaluator(ahead=AHEAD)
        self._jobs = NewestWins(post)
        self._checks = NewestWins(post)
        self._asides = NewestWins(post)
        self._turns = Turns(lambda: self.busy)
        self._aside_evaluator = Evaluator()
        self.checked: Checked | None = None
        self.checking: float | None = None
        self.thorough = False
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
        self._jobs.close()
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
            self.staged, self.early = None, None
            self._checks.drop()
            self.checked, self.checking, self._checked_for = None, None, None
            self.announce({"evaluation", "trouble"})
            return
        n, p = table.shape
        if n * p * min(n, p) <= AT_ONCE:
            self._jobs.drop()
            try:
                answer: Evaluation | InputError = self._evaluator.evaluate(table, recipe, lenient=True)
            except InputError as error:
                answer = error
            self._take(answer)
        else:
            self.busy, self.progress = True, None
            self.announce({"busy"})
            self._wanted = wanted = object()

            def staged(whole: Staged) -> None:
                self._post(partial(self._take_staged, wanted, whole))

            def work(watch: Watch) -> Evaluation:
                return self._evaluator.evaluate(table, recipe, True, watch, staged)

            self._jobs.submit(work, self._take, partial(self._tell, "progress"))

    def _take_staged(self, wanted: object, whole: Staged) -> None:
        if wanted is not self._wanted or not self.busy or self.evaluation is None:
            return
        if isinstance(whole, Evaluation):
            self.early = self._steady(whole)
            self.announce({"early"})
        else:
            self.staged = replace(self.evaluation, **vars(whole))
            self.announce({"staged"})

    def _tell(self, name: str, share: float) -> None:
        """How far something behind is: "progress" of the model, "checking" of its validation."""
        setattr(self, name, share)
        self.announce({name})

    def _take(self, answer: Evaluation | Exception) -> None:
        was_busy, self.busy = self.busy, False
        self.staged, self.early = None, None
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
        wanted = (found.key, found.recipe.validate, found.recipe.evidence, max(found.model.k, MOST))
        if wanted == self._checked_for:
            if self.checking is None and self.checked is not None and self._next(found, self.checked):
                self._on_checked(found, self.checked)
            return
        self._checked_for = wanted
        self._checks.drop()
        kept = self._kept_checks.get(wanted)
        if kept is not None:
            self._on_checked(found, kept)
            return
        self.checked, self.checking = None, 0.0
        self.announce({"checked"})
        self._check_behind(partial(_check_soon, found), found)

    def _check_behind(self, work: Work, found: Evaluation) -> None:
        work = partial(self._turns.take, work)
        self._checks.submit(work, partial(self._on_checked, found), partial(self._tell, "checking"))

    def _on_checked(self, found: Evaluation, answer: Checked | Exception) -> None:
        """The validation is there; of much data the lines come after it, and after them the slow ones."""
        if isinstance(answer, Exception):
            raise answer
        self.checked = answer
        following = self._next(found, answer)
        if following is not None:
            self.checking = self.checking or 0.0
            self._check_behind(partial(following, found, answer), found)
        else:
            self.checking = None
            if len(self._kept_checks) > KEPT_CHECKS:
                self._kept_checks.clear()
            self._kept_checks[self._checked_for] = answer
        self.announce({"checked"})

    def _next(self, found: Evaluation, checked: Checked) -> Callable[..., Checked] | None:
        """What is still to be found out."""
        if len(checked.lines) < QUICK:
            return with_quick_lines
        light = found.scaled.work <= LIGHT or self.thorough
        is_whole = len(checked.lines) == len(KEYS) or found.treated.has_gaps
        return with_slow_lines if light and not is_whole else None

    def aside(
        self, work: Work, done: Callable[[Any], None], told: Callable[[float], None] | None = None
    ) -> None:
        """Compute something beside the model, behind; the newest request wins, also over one under way."""
        self._asides.submit(partial(self._turns.take, work), done, told)

    def evaluate(self, table: Table, recipe: Recipe, watch: Watch | None = None) -> Evaluation:
        """An evaluation beside the live one, for what runs aside."""
        return self._aside_evaluator.evaluate(table, recipe, True, watch)

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


def _check_soon(found: Evaluation, watch: Watch) -> Checked:
    """Validate after a moment."""
    wait_for_quiet(watch)
    return validated(found, watch) if found.scaled.work > LIGHT else check(found, watch)


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


def _same_things(shown: Evaluation, fresh: Evaluation) -> bool:
    """Whether two evaluations are of the same samples and their loadings can be compared."""
    same_size = len(shown.decomposition.loadings) == len(fresh.decomposition.loadings)
    return (
        same_size
        and shown.table.ids == fresh.table.ids
        and shown.table.axis.labels == fresh.table.axis.labels
    )
