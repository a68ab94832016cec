"""What is computed before anybody asks: components beyond those of the model, and models a switch away."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from functools import partial
from typing import Any

from msgspec.structs import replace

from scutcher.core.errors import InputError
from scutcher.core.progress import Watch, tell
from scutcher.core.recipes.recipe import Recipe
from scutcher.study.evaluation.cache import memory_share
from scutcher.study.evaluation.evaluation import Evaluation
from scutcher.study.evaluation.evaluator import Evaluator
from scutcher.study.running_checks import wait_for_quiet
from scutcher.study.work import Priority, Queue, Request, raise_error

FURTHER, SWITCHED = "further components", "treatments switched"
"""Slots of the queue."""

MEMORY = 0.5
"""Share of the cache's memory that may be filled before anybody asks."""

WORK = 1e11
"""Multiplications that one model may take; what takes longer waits until somebody wants it."""


class ComputedAhead:
    """Fills the cache while a model is looked at, behind all that somebody waits for.

    Parameters
    ----------
    queue : Queue
    evaluator : Evaluator
        One that keeps what it computes.
    """

    def __init__(self, queue: Queue, evaluator: Evaluator) -> None:
        self._queue, self._evaluator = queue, evaluator

    def drop(self) -> None:
        """Something else is wanted by now."""
        self._queue.drop(FURTHER)
        self._queue.drop(SWITCHED)

    def components(self, found: Evaluation, done: Callable[[Any], None]) -> None:
        """Those beyond the ones asked for, for a handle to move over; `done` gets them with their model."""
        if found.decomposition.computed > found.model.k or found.treated.has_gaps:
            return

        def work(watch: Watch) -> Evaluation:
            wait_for_quiet(watch)  # and for the picture of the model
            return self._evaluator.evaluate(found.table, found.recipe, True, watch)

        self._queue.ask(Request(FURTHER, None, Priority.LOOKED_AT, work, done))

    def switches(self, found: Evaluation) -> None:
        """The models that are one switch of a treatment away, the last treatment first."""
        if found.recipe.treat:
            work = partial(self._switch, found)
            self._queue.ask(Request(SWITCHED, None, Priority.UNASKED, work, raise_error))

    def _switch(self, found: Evaluation, watch: Watch) -> None:
        wait_for_quiet(watch)
        for recipe in (found.recipe, *self._affordable(found)):  # the first, lest it be what goes
            tell(watch, 0.0)
            try:
                self._evaluator.evaluate(found.table, recipe, True, watch)
            except InputError:
                continue  # whoever switches it hears of it

    def _affordable(self, found: Evaluation) -> Iterator[Recipe]:
        """What memory and time allow."""
        room = MEMORY * memory_share()
        for recipe in one_switch_away(found.recipe):
            room -= found.table.values.nbytes * (2 + sum(step.on for step in recipe.treat))
            if room < 0:
                return
            if self._evaluator.work_left(found.table, recipe) <= WORK:
                yield recipe


def one_switch_away(recipe: Recipe) -> Iterator[Recipe]:
    """The same with one treatment on that is off, or off that is on; the last first."""
    steps = recipe.treat
    for place in reversed(range(len(steps))):
        switched = replace(steps[place], on=not steps[place].on)
        yield replace(recipe, treat=(*steps[:place], switched, *steps[place + 1 :]))
