"""A monkey at the window: random clicks, keys, drags, commands, pages and data, with an oracle.

`python -m bench monkey [SEED] [N]`. After every stretch the window is closed and the study opened again: it
must be as it was left; undone to the first state it must be the first, redone to the last the last. No
exception may be raised anywhere, the event loop must not stand still, memory must stay bounded.
"""

from __future__ import annotations

import faulthandler
import gc
import os
import sys
import tempfile
import threading
import time
import traceback
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from hashlib import sha256
from pathlib import Path
from typing import Any
from unittest import mock

import numpy as np
from PySide6.QtCore import QEvent, QTimer
from PySide6.QtWidgets import QApplication

from bench.memory import in_use
from bench.monkey_hands import Hands, nobody_answers
from bench.own_time import OwnTime
from scutcher.core.errors import InputError
from scutcher.demo.sets import SETS, THREE
from scutcher.desk.shell.beginning import demo_study
from scutcher.desk.shell.ending import dispose
from scutcher.desk.shell.memory import give_back
from scutcher.desk.shell.start import application
from scutcher.desk.shell.window import Window
from scutcher.study.document.state import State
from scutcher.study.document.study import Study
from scutcher.study.evaluation.cache import memory_share, shared
from scutcher.study.storage.plain_state import state_to_plain

N, SEED, STRETCH = 10_000, 1, 250
GAP = 1.0
"""Seconds of a processor that the interface thread may compute in one go."""

LOUD, STANDS = "MONKEY_LOUD" in os.environ, 5
"""Whether every long stand is printed as it happens, and after how many seconds where it stands."""

MEMORY = 1_000 * 2**20
"""Bytes of the process at most, beside the results that are kept for reuse."""


def plain_of(state: State) -> dict[str, Any]:
    """A state as plain data, its contents by their hash."""

    def of_array(values: np.ndarray) -> str:
        whole = np.ascontiguousarray(values)
        return sha256(repr(whole.shape).encode() + whole.tobytes()).hexdigest()

    return state_to_plain(state, of_array, lambda names: sha256("\0".join(names).encode()).hexdigest())


class Monkey:
    """One run; each stretch begins with one of some demo sets.

    Attributes
    ----------
    troubles : list of str
        Exceptions with what was done before them, and what the oracle found.
    stands : list of str
        Actions in which the interface thread computed for longer than it may.
    longest : float
        The longest time in seconds that the interface thread computed in one go.
    """

    def __init__(
        self, seed: int, folder: Path, stretch: int = STRETCH, sets: tuple[str, ...] = (*SETS, THREE)
    ) -> None:
        self.own = OwnTime()
        self.hands = Hands(np.random.default_rng(seed), self.own.turn)
        self.folder, self.stretch, self.sets = folder, stretch, sets
        self.troubles: list[str] = []
        self.stands: list[str] = []
        self.longest, self.slowest = 0.0, ""
        self.done: list[str] = []
        self._started = 0
        self._coming: Callable[[], Study] | None = None

    # The run

    def run(self, count: int, say: Callable[[str], object] = lambda line: None) -> None:
        """So many actions, in stretches."""
        application()
        ticker = QTimer()
        ticker.setInterval(150)
        ticker.timeout.connect(self.hands.answer_popup)
        ticker.start()
        own = mock.patch.dict(os.environ, {"XDG_STATE_HOME": str(self.folder / "state")})
        # what it chooses is nobody else's choice
        with own, self._caught(), nobody_answers(), self.own.of_every_loop():
            left = count
            while left > 0:
                path = self.folder / f"{self._started}.scutch"
                self._started += 1
                self._stretch(path, min(self.stretch, left))
                left -= self.stretch
                words = (
                    f"{count - max(left, 0)} done, {len(self.troubles)} troubles, {in_use() / 2**20:.0f} MB"
                )
                say(f"{words}, {shared()._held / 2**20:.0f} of them kept results")

    def _stretch(self, path: Path, count: int) -> None:
        study = demo_study(self.hands.any(self.sets))
        study.keep_in(path)
        first = plain_of(study.state)
        self._open(study)
        for _ in range(count):
            self._act()
            self._take_over()
        assert self.hands.window is not None
        end = self.hands.window.study
        last, path = plain_of(end.state), end.file.path if end.file is not None else path
        began_here = end is study
        self._close()
        self._check(path, first if began_here else None, last)

    def _check(self, path: Path, first: dict[str, Any] | None, last: dict[str, Any]) -> None:
        """As it was left; undone to the first; redone to the last."""
        study = Study.open(path)
        try:
            self._expect(plain_of(study.state) == last, "opened again it is another")
            steps = 0
            while study.undo_label is not None:
                study.undo()
                steps += 1
            if first is not None:
                self._expect(plain_of(study.state) == first, "undone to the start it is another")
            for _ in range(steps):
                study.redo()
            self._expect(plain_of(study.state) == last, "redone to the end it is another")
        finally:
            study.close()
        gc.collect()
        give_back()  # as the window does from time to time
        kept = shared()._held
        words = f"{in_use() / 2**20:.0f} MB are in use, {kept / 2**20:.0f} of them kept results"
        self._expect(in_use() < MEMORY + memory_share(), words)

    def _expect(self, holds: bool, words: str) -> None:
        if not holds:
            self._note(f"{words}, after {self._tail()}")

    def _note(self, words: str) -> None:
        """One trouble more; said at once too, lest a crash takes it along."""
        self.troubles.append(words)
        print(words, file=sys.stderr, flush=True)

    def _tail(self) -> str:
        return " → ".join(self.done[-6:])

    def _open(self, study: Study) -> None:
        self.hands.window = Window(study)
        self.hands.window.opening.open_study = self._other
        self.hands.window.opening.open_state = lambda state: self._later(lambda: Study(state))
        self.hands.window.show()
        self._turn()

    def _later(self, study: Callable[[], Study]) -> None:
        """Data for a window of their own take the place of this one, when what is under way has ended."""
        self._coming = study

    def _take_over(self) -> None:
        coming, self._coming = self._coming, None
        if coming is None:
            return
        try:
            study = coming()
        except InputError:
            return
        if study.file is None:
            path = self.folder / f"{self._started}.scutch"
            self._started += 1
            study.keep_in(path)
        self._close()
        self._open(study)

    def _other(self, path: Path) -> None:
        self._later(lambda: Study.open(path))

    def _reopen(self) -> None:
        assert self.hands.window is not None and self.hands.window.study.file is not None
        path = self.hands.window.study.file.path
        self._close()
        self._open(Study.open(path))

    def _close(self) -> None:
        window, self.hands.window = self.hands.window, None
        if window is not None:
            study = window.study
            dispose(window)
            study.close()

    @contextmanager
    def _caught(self) -> Iterator[None]:
        """Everything that nobody caught, of slots, painters and threads."""
        hooks = sys.excepthook, threading.excepthook

        def caught(kind: type[BaseException], error: BaseException, trace: Any) -> None:
            if not isinstance(error, InputError):
                lines = traceback.format_exception(kind, error, trace)
                self._note(f"after {self._tail()}:\n{''.join(lines[-4:])}")

        sys.excepthook = caught
        threading.excepthook = lambda args: caught(
            args.exc_type, args.exc_value or Exception(), args.exc_traceback
        )
        try:
            yield
        finally:
            self._close()
            sys.excepthook, threading.excepthook = hooks

    # One action

    def _act(self) -> None:
        if self.hands.window is not None and not self.hands.window.isVisible():  # closed through the finder
            self._reopen()
        if LOUD:
            faulthandler.dump_traceback_later(STANDS, file=sys.stderr)
        start = time.perf_counter()
        self.own.begin()
        way = self.hands.any_way()
        try:
            said = way()
        except InputError as error:
            said = f"{way.__name__}: {error.problem}"
        except Exception as error:
            said = way.__name__
            self._note(f"{way.__name__} after {self._tail()}:\n{traceback.format_exc()[-1500:]}{error!r}")
        self.done = [*self.done[-40:], said]
        self._turn()
        taken = time.perf_counter() - start
        if LOUD:
            faulthandler.cancel_dump_traceback_later()
            if taken > GAP:
                own = self.own.longest
                print(f"    {taken:.1f} s, {own:.1f} of them its own in one go: {self._tail()}", flush=True)
        own = self.own.at_best(GAP)
        if own > self.longest:
            self.longest, self.slowest = own, said
        if own > GAP:
            self.stands.append(f"{own:.2f} s: {self._tail()}")
            print(f"the window stood still for {self.stands[-1]}", file=sys.stderr, flush=True)

    def _turn(self) -> None:
        for _ in range(3):
            self.own.turn()
            QApplication.processEvents()
        self.own.turn()
        self.hands.answer_popup()
        QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
        self.own.turn()


def report(*arguments: str) -> list[str]:
    """The lines of this bench; SEED and N as arguments."""
    seed = int(arguments[0]) if arguments else SEED
    count = int(arguments[1]) if len(arguments) > 1 else N
    faulthandler.enable()
    with tempfile.TemporaryDirectory() as folder:
        monkey = Monkey(seed, Path(folder))
        monkey.run(count, lambda line: print(f"  {line}", flush=True))
    lines = [f"{count} actions of seed {seed}: {len(monkey.troubles)} troubles"]
    lines.append(f"longest stand of the event loop {monkey.longest:.2f} s ({monkey.slowest}), wanted {GAP:g}")
    lines.append(f"longer than that: {len(monkey.stands)} of {count}")
    return [*lines, *monkey.troubles, *monkey.stands]
