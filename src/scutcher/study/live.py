"""The model of the study, always up to date: small ones at once, large ones behind."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace

from scutcher.core.decomposition import Decomposition, agree_with
from scutcher.core.errors import InputError
from scutcher.core.recipe import Recipe
from scutcher.core.table import Table
from scutcher.study.callbacks import Announcer
from scutcher.study.evaluator import Evaluation, Evaluator
from scutcher.study.jobs import NewestWins, Post
from scutcher.study.study import Study

AT_ONCE = 4e7
"""Work below this many multiplications is done on the spot: it takes less than a frame or two."""

AHEAD = 30
"""Components that are computed, so that the handle can be dragged over them at once."""

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
    """

    def __init__(self, study: Study, post: Post, start: bool = True) -> None:
        super().__init__()
        self.study = study
        self.evaluation: Evaluation | None = None
        self.trouble: InputError | None = None
        self.busy = False
        self._evaluator = Evaluator(ahead=AHEAD)
        self._jobs = NewestWins(post)
        self._turned: tuple[Decomposition, Decomposition] | None = None
        self._leave = study.subscribe(self._on_study)
        if start:
            self.refresh()

    def close(self) -> None:
        """Stop listening and computing."""
        self._leave()
        self._jobs.close()

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
            self.busy = True
            self.announce({"busy"})
            self._jobs.submit(work, self._take)

    def _work(self, table: Table, recipe: Recipe) -> Callable[[], Evaluation]:
        return lambda: self._evaluator.evaluate(table, recipe, lenient=True)

    def _take(self, answer: Evaluation | Exception) -> None:
        was_busy, self.busy = self.busy, False
        changed = {"busy"} if was_busy else set()
        if isinstance(answer, InputError):
            self.trouble = answer
            self.announce(changed | {"trouble"})
            return
        if isinstance(answer, Exception):
            raise answer
        self.evaluation = self._steady(answer)
        if self.trouble is not None:
            self.trouble = None
            changed |= {"trouble"}
        self.announce(changed | {"evaluation"})

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
