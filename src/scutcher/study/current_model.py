"""The model of the study, always up to date: light ones at once, heavy ones behind; one moment for all."""

from __future__ import annotations

from collections.abc import Callable, Hashable
from dataclasses import replace
from functools import partial
from typing import Any

from scutcher.core.data.table import Table
from scutcher.core.errors import InputError
from scutcher.core.frozen import frozen
from scutcher.core.numeric.known_spans import known_span
from scutcher.core.progress import Watch
from scutcher.core.recipes.recipe import Recipe
from scutcher.study.computed_ahead import ComputedAhead
from scutcher.study.document.announcer import Announcer
from scutcher.study.document.state import State
from scutcher.study.document.study import Study
from scutcher.study.evaluation.cache import shared
from scutcher.study.evaluation.checks import Checked
from scutcher.study.evaluation.evaluation import Evaluation, Staged
from scutcher.study.evaluation.evaluator import Evaluator
from scutcher.study.evaluation.steady_signs import SteadySigns
from scutcher.study.moment import Moment
from scutcher.study.running_checks import RunningChecks
from scutcher.study.work import Post, Priority, Queue, Request, Work

AT_ONCE = 4e7
"""Work below this many multiplications is done on the spot: it takes less than a frame or two."""

AHEAD = 20
"""Components that are computed, so that the handle can be dragged over them at once."""

MODEL = "model"
"""Slot of the queue."""


@frozen(eq=False)
class Coming:
    """A moment that is being computed, as far as it is.

    Attributes
    ----------
    state, recipe
        What it will be of.
    staged : Staged or None
        The treated tables, before there is a model of them.
    """

    state: State
    recipe: Recipe
    staged: Staged | None = None


class CurrentModel(Announcer):
    """Follows a study; announces what of the moment is other: "state", "recipe", "evaluation", "checked",
    "trouble"; and what goes on behind: "busy", "progress", "checking", "staged", "newcomers".

    Attributes
    ----------
    moment : Moment
        Of one time, always: while a heavy model is computed it is the one before.
    coming : Coming or None
        What is being computed behind.
    progress : float or None
        How far a slow treatment is, from 0 to 1.
    brought : (Table, bool) or None
        New samples to be shown on the model, and whether their axis may be resampled.
    queue : Queue
        Of everything that runs behind for this study.
    """

    def __init__(self, study: Study, post: Post, start: bool = True) -> None:
        super().__init__()
        self.study = study
        self.moment = Moment(study.state, study.state.recipe)
        self.coming: Coming | None = None
        self.progress: float | None = None
        self.brought: tuple[Table, bool] | None = None
        self.queue = Queue(post)
        self._post, self._signs = post, SteadySigns()
        self._evaluator = Evaluator(ahead=AHEAD, cache=shared())
        self._beside = Evaluator(cache=shared())
        self._ahead = ComputedAhead(self.queue, self._evaluator)
        self._checks = RunningChecks(self.queue, lambda: self.announce({"checking"}), self._take_checked)
        self._leave = study.subscribe(self._on_study)
        if start:
            self.refresh()

    def close(self) -> None:
        """Stop listening and computing."""
        self._leave()
        self.queue.close()

    @property
    def evaluation(self) -> Evaluation | None:
        """The treated data and the model of the moment."""
        return self.moment.found

    @property
    def checked(self) -> Checked | None:
        """Validation and lines of evidence of the moment."""
        return self.moment.checked

    @property
    def trouble(self) -> InputError | None:
        """Why the moment has no model."""
        return self.moment.trouble

    @property
    def busy(self) -> bool:
        """Whether a model is being computed behind."""
        return self.coming is not None

    def refresh(self) -> None:
        """Bring the moment up to the study's state."""
        self._request(self.study.state.recipe)

    def preview(self, recipe: Recipe) -> None:
        """Show what a recipe would give, without a command: for a handle that is still held."""
        self._request(recipe)

    def _on_study(self, changed: frozenset[str]) -> None:
        if changed & {"table", "recipe"}:
            if "table" in changed and self._other_samples():
                self._send_away()
            self.refresh()
        elif changed & {"name", "colour_by", "models", "datasets", "current", "blocks", "report"}:
            self._to_moment(replace(self.moment, state=self._same_inputs(self.study.state)))

    def _same_inputs(self, state: State) -> State:
        """The state of now, unless the moment's model is of another table or recipe and still computed."""
        shown = self.moment.state
        same = state.table is shown.table and state.recipe == shown.recipe
        return state if same or self.coming is None else shown

    def _other_samples(self) -> bool:
        """Whether the study now holds other data than the moment."""
        old, new = self.moment.state.table, self.study.state.table
        return old is None or new is None or old.ids != new.ids

    # The model

    def _request(self, recipe: Recipe) -> None:
        state = self.study.state
        table = state.table
        self._ahead.drop()
        if table is None:
            self._forget_coming()
            self._checks.drop()
            self._to_moment(Moment(state, recipe))
            return
        if self._evaluator.work_left(table, recipe, AT_ONCE) <= AT_ONCE:
            self._forget_coming()
            try:
                answer: Evaluation | InputError = self._evaluator.evaluate(table, recipe, lenient=True)
            except InputError as error:
                answer = error
            self._take(state, recipe, answer)
            return
        self.coming, self.progress = Coming(state, recipe), None
        self.announce({"busy"})
        coming = self.coming

        def staged(whole: Staged) -> None:
            self._post(partial(self._take_staged, coming, whole))

        def work(watch: Watch) -> Evaluation:
            found = self._evaluator.evaluate(table, recipe, True, watch, staged, ahead=False)
            known_span(found.treated.values)  # views ask for it at once
            return found

        done = partial(self._take, state, recipe)
        self.queue.ask(Request(MODEL, None, Priority.MODEL, work, done, self._tell_progress))

    def _forget_coming(self) -> None:
        self.queue.drop(MODEL)
        if self.coming is not None:
            self.coming = None
            self.announce({"busy"})

    def _take_staged(self, asked: Coming, whole: Staged) -> None:
        """The treated tables of what is being computed."""
        coming = self.coming
        if coming is not None and coming.state is asked.state and coming.recipe is asked.recipe:
            self.coming = replace(coming, staged=whole)
            self.announce({"staged"})

    def _tell_progress(self, share: float) -> None:
        self.progress = share
        self.announce({"progress"})

    def _take(self, state: State, recipe: Recipe, answer: Evaluation | Exception) -> None:
        was_busy, self.coming = self.coming is not None, None
        also = {"busy"} if was_busy else set()
        now = self.study.state
        if now.table is state.table and now.recipe == state.recipe:
            state = now  # other classes colour it by now, or another name
        if isinstance(answer, Exception):
            self._take_trouble(state, recipe, answer, also)
            return
        found = self._signs(answer, self.moment.found)
        checked = self._checks.known(found, self.moment.checked)
        self._to_moment(Moment(state, recipe, found, checked), also)
        self.check()
        if was_busy:
            self._ahead.components(found, partial(self._take_further, found))
        if recipe == now.recipe:
            self._ahead.switches(found)

    def _take_further(self, found: Evaluation, answer: Evaluation | Exception) -> None:
        if isinstance(answer, Exception):
            raise answer
        if self.moment.found is found and answer.decomposition.computed > found.decomposition.computed:
            self._to_moment(replace(self.moment, found=self._signs(answer, found)))
            self.check()

    def _take_trouble(self, state: State, recipe: Recipe, error: Exception, also: set[str]) -> None:
        """There is no model: a held handle leaves the moment as it is, a state has no model then."""
        preview = recipe is not self.study.state.recipe
        if preview and isinstance(error, InputError):
            self._to_moment(replace(self.moment, trouble=error), also)
            return
        self._checks.drop()
        trouble = error if isinstance(error, InputError) else None
        self._to_moment(Moment(state, recipe, trouble=trouble), also)
        if trouble is None:
            raise error

    def _to_moment(self, moment: Moment, also: set[str] | None = None) -> None:
        """The one place where the moment changes; everybody hears once what is other now."""
        before, self.moment = self.moment, moment
        changed = set(also or ())
        for name, old, new in (
            ("state", before.state, moment.state),
            ("recipe", before.recipe, moment.recipe),
            ("evaluation", before.found, moment.found),
            ("checked", before.checked, moment.checked),
            ("trouble", before.trouble, moment.trouble),
        ):
            if old is not new:
                changed.add(name)
        self.announce(changed)

    # Its checks

    @property
    def checking(self) -> float | None:
        """How far the validation is, from 0 to 1; None when nothing is under way."""
        return self._checks.share

    @property
    def thorough(self) -> bool:
        """Whether the slow lines of evidence are wanted for large data too."""
        return self._checks.thorough

    def check(self, thorough: bool = False) -> None:
        """Validate the model of the moment behind, unless that is done or under way; the newest wins.

        Parameters
        ----------
        thorough : whether the slow lines of evidence are wanted for large data too, from now on
        """
        self._checks.thorough |= thorough
        if self.moment.found is not None:
            self._checks.begin(self.moment.found, self.moment.checked)

    def stop_checking(self) -> None:
        """Nobody wants the validation that is under way."""
        self._checks.drop()
        self.announce({"checked", "checking"})

    def _take_checked(self, checked: Checked) -> None:
        self._to_moment(replace(self.moment, checked=checked), {"checking"})

    # Beside it

    def ask(
        self,
        slot: str,
        key: Hashable,
        work: Work,
        done: Callable[[Any], None],
        told: Callable[[float], None] | None = None,
        priority: Priority = Priority.LOOKED_AT,
    ) -> None:
        """Compute something beside the model, behind; the newest request of a slot wins."""
        self.queue.ask(Request(slot, key, priority, work, done, told))

    def evaluate(self, table: Table, recipe: Recipe, watch: Watch | None = None) -> Evaluation:
        """An evaluation beside the moment's, for what is looked at beside it."""
        return self._beside.evaluate(table, recipe, True, watch)

    def bring(self, table: Table | None, resample: bool = False) -> None:
        """Put new samples on the model, or send them away; announces "newcomers"."""
        self.brought = None if table is None else (table, resample)
        self.announce({"newcomers"})

    def _send_away(self) -> None:
        """New samples of other data do not stay."""
        if self.brought is not None:
            self.bring(None)
