"""A monkey at the window: random clicks, keys, drags, commands, pages and data, with an oracle.

`python -m bench monkey [SEED] [N]`. After every stretch the window is closed and the study opened again: it
must be as it was left; undone to the first state it must be the first, redone to the last the last. No
exception may be raised anywhere, the event loop must not stand still, memory must stay bounded.
"""

from __future__ import annotations

import faulthandler
import gc
import os
import resource
import sys
import tempfile
import threading
import time
import traceback
from collections.abc import Callable, Iterator
from contextlib import ExitStack, contextmanager
from hashlib import sha256
from pathlib import Path
from typing import Any
from unittest import mock

import numpy as np
from PySide6.QtCore import QEvent, QPoint, Qt, QTimer
from PySide6.QtGui import QDesktopServices
from PySide6.QtTest import QTest
from PySide6.QtWidgets import (
    QAbstractButton,
    QAbstractItemView,
    QApplication,
    QComboBox,
    QDialog,
    QFileDialog,
    QLineEdit,
    QMenu,
    QPlainTextEdit,
    QWidget,
)
from shiboken6 import isValid

from scutcher.core.errors import InputError
from scutcher.core.treatments import all_treatments
from scutcher.demo.sets import SETS, THREE
from scutcher.desk.actions.add_treatment import suggested
from scutcher.desk.shell.beginning import demo_study
from scutcher.desk.shell.ending import dispose
from scutcher.desk.shell.start import application
from scutcher.desk.shell.window import Window
from scutcher.study.document.commands.recipe import AddStep, MoveStep, RemoveStep, SwitchStep
from scutcher.study.document.commands.samples import SetAside
from scutcher.study.document.state import State
from scutcher.study.document.study import Study
from scutcher.study.evaluation.cache import memory_share, shared
from scutcher.study.storage.plain_state import state_to_plain

N, SEED, STRETCH = 10_000, 1, 250
GAP = 1.0
"""Seconds that the event loop may stand still."""

LOUD, STANDS = "MONKEY_LOUD" in os.environ, 5
"""Whether every long stand is printed as it happens, and after how many seconds where it stands."""

MEMORY = 1_000 * 2**20
"""Bytes of the process at most, beside the results that are kept for reuse."""

NAMED = (
    "Escape Return Tab Space Left Right Up Down Home End PageUp PageDown Delete F2 F6 A B F H J L M N P R S "
    "T X Plus Minus 1 5"
)
KEYS = [getattr(Qt.Key, f"Key_{name}") for name in NAMED.split()]
TYPED = ("0.5", "7", "-3", "1e9", "nan", "", "abc", "1100-1500", "a,b", "<b>x</b>", "0", "300")
NEVER = ("quit", "close", "full screen", "another window", "print", "desktop", "install")
"""Actions that end the run, or speak with the world outside."""


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
    longest : float
        The longest time in seconds that the event loop stood still.
    """

    def __init__(
        self, seed: int, folder: Path, stretch: int = STRETCH, sets: tuple[str, ...] = (*SETS, THREE)
    ) -> None:
        self.rng = np.random.default_rng(seed)
        self.folder, self.stretch, self.sets = folder, stretch, sets
        self.troubles: list[str] = []
        self.longest, self.slowest = 0.0, ""
        self.done: list[str] = []
        self._started = 0
        self.window: Window | None = None
        self._coming: Callable[[], Study] | None = None

    # The run

    def run(self, count: int, say: Callable[[str], object] = lambda line: None) -> None:
        """So many actions, in stretches."""
        application()
        ticker = QTimer()
        ticker.setInterval(150)
        ticker.timeout.connect(self._answer_popup)
        ticker.start()
        own = mock.patch.dict(os.environ, {"XDG_STATE_HOME": str(self.folder / "state")})
        with own, self._caught(), _nobody_answers():  # what it chooses is nobody else's choice
            left = count
            while left > 0:
                path = self.folder / f"{self._started}.scutch"
                self._started += 1
                self._stretch(path, min(self.stretch, left))
                left -= self.stretch
                words = (
                    f"{count - max(left, 0)} done, {len(self.troubles)} troubles, {_memory() / 2**20:.0f} MB"
                )
                say(f"{words}, {shared()._held / 2**20:.0f} of them kept results")

    def _stretch(self, path: Path, count: int) -> None:
        study = demo_study(self._any(self.sets))
        study.keep_in(path)
        first = plain_of(study.state)
        self._open(study)
        for _ in range(count):
            self._act()
            self._take_over()
        assert self.window is not None
        end = self.window.study
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
        kept = shared()._held
        words = f"{_memory() / 2**20:.0f} MB are in use, {kept / 2**20:.0f} of them kept results"
        self._expect(_memory() < MEMORY + memory_share(), words)

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
        self.window = Window(study)
        self.window.opening.open_study = self._other
        self.window.opening.open_state = lambda state: self._later(lambda: Study(state))
        self.window.show()
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
        assert self.window is not None and self.window.study.file is not None
        path = self.window.study.file.path
        self._close()
        self._open(Study.open(path))

    def _close(self) -> None:
        window, self.window = self.window, None
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

    def _any(self, given: Any) -> Any:
        return given[int(self.rng.integers(len(given)))]

    def _act(self) -> None:
        if self.window is not None and not self.window.isVisible():  # closed through the finder
            self._reopen()
        ways: tuple[tuple[float, Callable[[], str]], ...] = (
            (0.30, self._click),
            (0.10, self._drag),
            (0.10, self._key),
            (0.10, self._type),
            (0.08, self._page),
            (0.12, self._command),
            (0.06, self._undo),
            (0.08, self._action),
            (0.03, self._choose),
            (0.03, self._wait),
        )
        if LOUD:
            faulthandler.dump_traceback_later(STANDS, file=sys.stderr)
        start = time.perf_counter()
        way = ways[int(self.rng.choice(len(ways), p=[share for share, _ in ways]))][1]
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
        if taken > self.longest and way != self._wait:
            self.longest, self.slowest = taken, said
        if LOUD and taken > GAP:
            print(f"    {taken:.1f} s: {self._tail()}", flush=True)

    def _turn(self) -> None:
        for _ in range(3):
            QApplication.processEvents()
        self._answer_popup()
        QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)

    def _answer_popup(self) -> None:
        """A menu that is open: something of it, or away with it. Some menus hold the loop until then."""
        popup = QApplication.activePopupWidget()
        if popup is None:
            return
        for _ in range(int(self.rng.integers(6))):
            if isValid(popup):
                QTest.keyClick(popup, Qt.Key.Key_Down)
        if isValid(popup):
            QTest.keyClick(popup, Qt.Key.Key_Return if self.rng.random() < 0.6 else Qt.Key.Key_Escape)
        if isValid(popup):
            popup.close()

    def _seen(self, kinds: type | tuple[type, ...] = QWidget) -> list[Any]:
        assert self.window is not None
        found = self.window.findChildren(QWidget)
        return [
            one
            for one in found
            if isinstance(one, kinds) and isValid(one) and one.isVisible() and one.width() > 2
        ]

    def _target(self) -> QWidget:
        buttons = self._seen(QAbstractButton) if self.rng.random() < 0.5 else []
        return self._any(buttons or self._seen())

    def _place(self, widget: QWidget) -> QPoint:
        return QPoint(int(self.rng.integers(widget.width())), int(self.rng.integers(max(widget.height(), 1))))

    def _named(self, widget: QWidget) -> str:
        words = widget.text() if isinstance(widget, QAbstractButton) else widget.accessibleName()
        return f"{type(widget).__name__} {words[:30]!r}"

    def _modifier(self) -> Qt.KeyboardModifier:
        none = Qt.KeyboardModifier.NoModifier
        return self._any(
            (none, none, none, Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.ControlModifier)
        )

    def _click(self) -> str:
        widget = self._target()
        said = f"click {self._named(widget)}"
        if isinstance(widget, QAbstractItemView):
            widget = widget.viewport()
        button = Qt.MouseButton.LeftButton if self.rng.random() < 0.9 else Qt.MouseButton.RightButton
        way = QTest.mouseDClick if self.rng.random() < 0.1 else QTest.mouseClick
        way(widget, button, self._modifier(), self._place(widget))
        return said

    def _drag(self) -> str:
        widget = self._any(self._seen())
        said, start, end = f"drag over {self._named(widget)}", self._place(widget), self._place(widget)
        left, held = Qt.MouseButton.LeftButton, self._modifier()
        QTest.mousePress(widget, left, held, start)
        for share in (0.3, 0.7, 1.0):
            if isValid(widget):
                QTest.mouseMove(widget, start + (end - start) * share)
                QApplication.processEvents()
        if isValid(widget):
            QTest.mouseRelease(widget, left, held, end)
        return said

    def _key(self) -> str:
        assert self.window is not None
        focus = QApplication.focusWidget() or self.window
        key, held = self._any(KEYS), self._modifier()
        if held == Qt.KeyboardModifier.ControlModifier and key in (Qt.Key.Key_Q, Qt.Key.Key_P, Qt.Key.Key_W):
            held = Qt.KeyboardModifier.NoModifier
        QTest.keyClick(focus, key, held)
        return f"key {key.name} {held.name}"

    def _type(self) -> str:
        fields = [
            one for one in self._seen((QLineEdit, QPlainTextEdit)) if not one.isReadOnly() and one.isEnabled()
        ]
        if not fields:
            return "no field"
        field, words = self._any(fields), self._any(TYPED)
        said = f"type {words!r} into {self._named(field)}"
        field.setFocus()
        field.selectAll()
        QTest.keyClicks(field, words)
        if isValid(field) and self.rng.random() < 0.6:
            QTest.keyClick(field, Qt.Key.Key_Return)
        return said

    def _choose(self) -> str:
        boxes = [box for box in self._seen(QComboBox) if box.count() and box.isEnabled()]
        if not boxes:
            return "no box"
        box, row = self._any(boxes), 0
        row = int(self.rng.integers(box.count()))
        said = f"choose {box.itemText(row)!r}"
        box.setCurrentIndex(row)
        box.activated.emit(row)
        return said

    def _page(self) -> str:
        assert self.window is not None
        name = self._any(list(self.window.stack.pages))
        self.window.show_page(name)
        return f"page {name}"

    def _wait(self) -> str:
        end = time.perf_counter() + 0.5
        while time.perf_counter() < end:
            QApplication.processEvents()
            time.sleep(0.005)
        return "wait"

    def _undo(self) -> str:
        assert self.window is not None
        back = self.rng.random() < 0.6
        (self.window.undo if back else self.window.redo)()
        return "undo" if back else "redo"

    def _command(self) -> str:
        """A command as such, with places that may be wrong."""
        assert self.window is not None
        desk, state = self.window.desk, self.window.study.state
        steps = len(state.recipe.treat)
        which = int(self.rng.integers(6))
        if which <= 1 and state.table is not None and steps < 5:
            declared = self._any(list(all_treatments().values()))
            own = suggested(declared, state.table)
            desk.do(AddStep(declared.key, own, int(self.rng.integers(steps + 1))))
            return f"add {declared.key}"
        if which == 2:
            desk.do(SwitchStep(int(self.rng.integers(-1, steps + 2)), bool(self.rng.random() < 0.5)))
            return "switch a step"
        if which == 3:
            desk.do(RemoveStep(int(self.rng.integers(-1, steps + 2))))
            return "remove a step"
        if which == 4:
            desk.do(MoveStep(int(self.rng.integers(-1, steps + 2)), int(self.rng.integers(-1, steps + 2))))
            return "move a step"
        count = 0 if state.table is None else state.table.shape[0]
        rows = self.rng.integers(-1, count + 2, int(self.rng.integers(1, 6)))
        desk.do(SetAside(tuple(int(row) for row in rows), "a monkey"))
        return f"set aside {rows.tolist()}"

    def _action(self) -> str:
        assert self.window is not None
        listed = [
            one for one in self.window.actions_list if not any(word in one.words.lower() for word in NEVER)
        ]
        action = self._any(listed)
        action.run()
        return f"action {action.words!r}"


@contextmanager
def _nobody_answers() -> Iterator[None]:
    """Dialogs of the desktop are closed without an answer; nothing is opened elsewhere."""
    with ExitStack() as stack:
        for name, answer in (
            ("getOpenFileName", ("", "")), ("getOpenFileNames", ([], "")), ("getSaveFileName", ("", "")),
            ("getExistingDirectory", ""),
        ):  # fmt: skip
            stack.enter_context(
                mock.patch.object(QFileDialog, name, staticmethod(lambda *_, a=answer, **__: a))
            )
        stack.enter_context(mock.patch.object(QDialog, "exec", lambda self: QDialog.DialogCode.Rejected))
        stack.enter_context(mock.patch.object(QMenu, "exec", lambda self, *_: None))
        stack.enter_context(mock.patch.object(QDesktopServices, "openUrl", staticmethod(lambda url: True)))
        yield


def _memory() -> int:
    """Bytes in use now."""
    for line in Path("/proc/self/status").read_text().splitlines():
        if line.startswith("VmRSS"):
            return int(line.split()[1]) * 1024
    return resource.getrusage(resource.RUSAGE_SELF).ru_maxrss * 1024


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
    return lines + monkey.troubles
