"""The two models that are compared, fitted behind; first what is quick, then what was held out."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from scutcher.charts.comparing.planes import codes_for
from scutcher.core.data.table import Table
from scutcher.core.errors import InputError
from scutcher.core.progress import Watch, part
from scutcher.desk.context import Desk
from scutcher.study.document.parts import Model
from scutcher.study.document.state import State
from scutcher.study.evaluation.comparison import Comparison, compare
from scutcher.study.evaluation.comparison_sides import Side, side_of, with_checks, with_shapes
from scutcher.study.evaluation.together_side import table_beside, together_side
from scutcher.study.work import Priority

FITS, CHECKS = "compare", "compare-checks"
"""Slots of the queue."""


class CompareWork:
    """Asks for a comparison and keeps it.

    Attributes
    ----------
    compared : Comparison or None
        Once it is there.
    trouble : InputError or None
        Why there is none.
    checking : bool
        Whether held-out figures are still being computed.
    """

    def __init__(self, desk: Desk, arrived: Callable[[], object]) -> None:
        self.desk, self._arrived = desk, arrived
        self.compared: Comparison | None = None
        self.trouble: InputError | None = None
        self.checking = False
        self._wanted: object = None

    def ask(self, a: Model, b: Model) -> None:
        """Compare two models of the state of now."""
        state = self.desk.study.state
        self._wanted = wanted = object()
        self.compared, self.trouble, self.checking = None, None, False
        codes = codes_for(state, _table_of(state, a, b))
        quick = [self._as_it_is(state, model) for model in (a, b)]

        def fit(watch: Watch) -> Comparison:
            sides = [
                side or self._fitted(state, model, other, part(watch, place / 2, (place + 1) / 2))
                for place, (side, model, other) in enumerate(zip(quick, (a, b), (b, a), strict=True))
            ]
            return compare(with_shapes(sides[0]), with_shapes(sides[1]), codes)

        def fitted(answer: Any) -> None:
            if wanted is not self._wanted:
                return
            self._take(answer)
            if self.compared is not None:
                self._check(self.compared, wanted, codes)
            self._arrived()

        self.desk.live.ask(FITS, None, fit, fitted)

    def stop(self) -> None:
        """Nobody looks any more."""
        self._wanted = None
        for slot in (FITS, CHECKS):
            self.desk.live.queue.drop(slot)

    def _check(self, compared: Comparison, wanted: object, codes: Any) -> None:
        """Validate what is not yet, also models that were put by before they were."""
        if compared.a.checked is not None and compared.b.checked is not None:
            return
        self.checking = True

        def check(watch: Watch) -> Comparison:
            a = with_checks(compared.a, part(watch, 0.0, 0.5))
            return compare(a, with_checks(compared.b, part(watch, 0.5, 1.0)), codes)

        def checked(answer: Any) -> None:
            if wanted is self._wanted:
                self.checking = False
                self._take(answer)
                self._arrived()

        self.desk.live.ask(CHECKS, None, check, checked, priority=Priority.CHECKS)

    def _take(self, answer: Any) -> None:
        """A comparison, or why there is none."""
        if isinstance(answer, InputError):
            self.trouble = answer
        elif isinstance(answer, Exception):
            raise answer
        else:
            self.compared = answer

    def _as_it_is(self, state: State, model: Model) -> Side | None:
        """The current model as the moment has it already; None for another."""
        moment = self.desk.moment
        if (
            model.id != state.current
            or moment.found is None
            or moment.state is not state
            or moment.is_preview
        ):
            return None
        return Side(model, moment.found, moment.checked)

    def _fitted(self, state: State, model: Model, other: Model, watch: Watch) -> Side:
        put = state.together_of(model.id)
        if put is not None:
            return together_side(state, put, other, self.desk.live.evaluate, watch)
        table = model.use.of(state.dataset_of(model).table)
        return side_of(
            model, table, lambda data, told: self.desk.live.evaluate(data, model.recipe, told), watch
        )


def _table_of(state: State, model: Model, other: Model) -> Table:
    """The table whose rows stand for the samples of a model."""
    put = state.together_of(model.id)
    return model.use.of(state.dataset_of(model).table) if put is None else table_beside(state, put, other)
