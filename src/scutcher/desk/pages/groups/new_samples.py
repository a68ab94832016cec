"""New samples that were brought in, measured behind against the models of the classes."""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from scutcher.core.data.table import Table
from scutcher.core.errors import InputError
from scutcher.desk.context import Desk
from scutcher.study.evaluation.class_models import ClassModels, NewOnClasses, new_on_classes

SLOT = "new samples on classes"


class NewSamplesOnClasses:
    """The newest of them; None where there are none.

    Attributes
    ----------
    shown : NewOnClasses or None
    """

    def __init__(self, desk: Desk, arrived: Callable[[], object]) -> None:
        self._desk, self._arrived = desk, arrived
        self.shown: NewOnClasses | None = None
        self._inputs: tuple[ClassModels, tuple[Table, bool]] | None = None

    def measure(self, found: ClassModels) -> None:
        """Ask for what is not known yet."""
        brought, known = self._desk.live.brought, self._inputs
        if brought is None:
            self.shown = self._inputs = None
            return
        if known is not None and known[0] is found and known[1] is brought:
            return
        inputs = (found, brought)
        self._inputs, self.shown = inputs, None

        def done(answer: Any) -> None:
            if inputs is not self._inputs:
                return
            if isinstance(answer, InputError):
                self._desk.say(answer)
            elif isinstance(answer, Exception):
                raise answer
            else:
                self.shown = answer
                self._arrived()

        self._desk.live.ask(SLOT, None, lambda watch: new_on_classes(found, *brought), done)
