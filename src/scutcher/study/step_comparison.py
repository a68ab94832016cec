"""The same model without one step: its scores and its Q², computed behind."""

from __future__ import annotations

from collections.abc import Callable

from msgspec.structs import replace

from scutcher.core.errors import InputError
from scutcher.core.progress import pulse, tell
from scutcher.core.recipes.recipe import Recipe
from scutcher.study.current_model import CurrentModel
from scutcher.study.evaluation.checks import checks_key, held_out
from scutcher.study.evaluation.evaluation import Evaluation
from scutcher.study.running_checks import wait_for_quiet

ALSO = 0.1
"""How far the work is when what was to be done also is there."""


class Without:
    """Ask with `want`; `done` is called when the answer has changed.

    `also` is done behind first, and `done` is called after it too.

    Attributes
    ----------
    evaluation : Evaluation or None
        The model without the step; None until it is there or where there is none.
    q2 : float or None
        Its held-out share with as many components.
    busy : bool
    """

    def __init__(
        self,
        live: CurrentModel,
        done: Callable[[], None],
        also: Callable[[Evaluation, int], object] = lambda found, place: None,
    ) -> None:
        self._live, self._done, self._also = live, done, also
        self.evaluation: Evaluation | None = None
        self.q2: float | None = None
        self.busy = False
        self._wanted: object = None

    def want(self, found: Evaluation, place: int) -> None:
        """Compare with the recipe of an evaluation without its step at a place."""
        step = found.recipe.treat[place]
        wanted = (checks_key(found), place, found.model.k, step.on)
        if wanted == self._wanted:
            return
        self._wanted, self.busy = wanted, True
        steps = list(found.recipe.treat)
        steps[place] = replace(step, on=False)
        recipe = replace(
            found.recipe,
            treat=tuple(steps),
            model=replace(found.recipe.model, components=found.model.k),
        )
        self._live.ask(
            "without a step",
            wanted,
            lambda watch: self._compute(found, place, recipe, watch),
            lambda answer: self._take(wanted, answer),
            lambda share: self._done() if share == ALSO else None,
        )

    def _compute(
        self, found: Evaluation, place: int, recipe: Recipe, watch: Callable[[float], bool]
    ) -> object:
        wait_for_quiet(watch)
        self._also(found, place)
        tell(watch, ALSO)
        other = self._live.evaluate(found.table, recipe, pulse(watch))
        validation, _ = held_out(other, pulse(watch))
        k = other.model.k
        q2 = None if validation is None or k > len(validation.q2) else float(validation.q2[k - 1])
        return other, q2

    def _take(self, wanted: object, answer: object) -> None:
        if wanted != self._wanted:
            return
        self.busy = False
        if isinstance(answer, InputError):
            self.evaluation, self.q2 = None, None
        elif isinstance(answer, Exception):
            raise answer
        else:
            self.evaluation, self.q2 = answer  # type: ignore[misc]
        self._done()
