"""What the Blocks page knows of the study's tables, computed behind: the fit first, then the rest."""

from __future__ import annotations

from collections.abc import Callable, Hashable, Sequence
from typing import Any

from scutcher.core.blocks.checking import CheckedBlocks, SteadyBlocks
from scutcher.core.blocks.fitting import FittedBlocks
from scutcher.core.blocks.later import Later, incomplete_samples, new_samples
from scutcher.core.data.table import Table
from scutcher.core.errors import InputError
from scutcher.core.progress import Watch
from scutcher.desk.context import Desk
from scutcher.study.document.state import State
from scutcher.study.evaluation.blocks import checked_blocks, fitted_blocks, key_of, steady_of
from scutcher.study.work import Priority


class BlocksWork:
    """Asks for what the state of now makes due; whatever arrives is told.

    Attributes
    ----------
    fitted : FittedBlocks or None
    checked : CheckedBlocks or None
    steady : SteadyBlocks or None
    incomplete : Later or None
        Samples that some tables lack.
    new : Later or None
        New samples that were brought in.
    trouble : InputError or None
        Why there is no fit.
    """

    def __init__(self, desk: Desk, arrived: Callable[[], object]) -> None:
        self.desk, self._arrived = desk, arrived
        self.fitted: FittedBlocks | None = None
        self.checked: CheckedBlocks | None = None
        self.steady: SteadyBlocks | None = None
        self.incomplete: Later | None = None
        self.new: Later | None = None
        self.trouble: InputError | None = None
        self._brought: tuple[Table, ...] = ()
        self._key: Hashable = None
        self._of: State | None = None

    def keep_up(self) -> bool:
        """Ask for the fit where the state is another; whether it was asked."""
        state = self.desk.moment.state
        key = key_of(state)
        if key == self._key:
            return False
        self._key, self._of = key, state  # kept, or the key would speak of other tables one day

        def done(answer: Any) -> None:
            if key == self._key:
                self._take(answer)

        self.desk.live.ask("blocks", None, lambda watch: fitted_blocks(state, watch), done)
        return True

    def _take(self, answer: Any) -> None:
        self.checked = self.steady = self.incomplete = self.new = None
        self.trouble = answer if isinstance(answer, InputError) else None
        if isinstance(answer, Exception) and self.trouble is None:
            raise answer
        self.fitted = None if self.trouble is not None else answer
        if self.fitted is not None:
            self._ask_beside(self.fitted)
        self._arrived()

    def _ask_beside(self, fitted: FittedBlocks) -> None:
        """Checks first, then what takes longest."""
        state = self.desk.moment.state
        self._ask("checked", fitted, lambda watch: checked_blocks(state, fitted, watch))
        if fitted.matched.only:
            self._ask("incomplete", fitted, lambda watch: incomplete_samples(fitted))
        if self._brought:
            self._project(fitted, self._brought)
        self._ask("steady", fitted, lambda watch: steady_of(state, fitted, watch))

    def _ask(self, name: str, fitted: FittedBlocks, work: Callable[[Watch], Any]) -> None:
        def done(answer: Any) -> None:
            if isinstance(answer, Exception) and not isinstance(answer, InputError):
                raise answer
            if fitted is self.fitted:
                setattr(self, name, None if isinstance(answer, InputError) else answer)
                self._arrived()

        self.desk.live.ask(f"blocks {name}", None, work, done, priority=Priority.CHECKS)

    def bring(self, tables: Sequence[Table]) -> None:
        """New samples, a table for each block in which they were measured."""
        self._brought = tuple(tables)
        if self.fitted is not None:
            self._project(self.fitted, self._brought)

    def _project(self, fitted: FittedBlocks, tables: tuple[Table, ...]) -> None:
        def done(answer: Any) -> None:
            if tables is not self._brought or fitted is not self.fitted:
                return
            if isinstance(answer, InputError):
                self._brought, self.new = (), None
                self.desk.say(answer)
            elif isinstance(answer, Exception):
                raise answer
            else:
                self.new = answer
                self._arrived()

        self.desk.live.ask("blocks new", None, lambda watch: new_samples(fitted, tables), done)
