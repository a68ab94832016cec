"""The hands of the monkey: what it can do at a window, each way chosen at random."""

from __future__ import annotations

import time
from collections.abc import Callable, Iterator
from contextlib import ExitStack, contextmanager
from typing import Any
from unittest import mock

import numpy as np
from PySide6.QtCore import QPoint, Qt
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

from scutcher.core.treatments import all_treatments
from scutcher.desk.actions.add_treatment import suggested
from scutcher.desk.shell.window import Window
from scutcher.study.document.commands.recipe import AddStep, MoveStep, RemoveStep, SwitchStep
from scutcher.study.document.commands.samples import SetAside

NAMED = (
    "Escape Return Tab Space Left Right Up Down Home End PageUp PageDown Delete F2 F6 A B F H J L M N P R S "
    "T X Plus Minus 1 5"
)
KEYS = [getattr(Qt.Key, f"Key_{name}") for name in NAMED.split()]
TYPED = ("0.5", "7", "-3", "1e9", "nan", "", "abc", "1100-1500", "a,b", "<b>x</b>", "0", "300")
NEVER = ("quit", "close", "full screen", "another window", "print", "desktop", "install")
"""Actions that end the run, or speak with the world outside."""


class Hands:
    """At one window.

    Attributes
    ----------
    window : Window or None
    turn : called where the event loop could turn
    """

    def __init__(self, rng: np.random.Generator, turn: Callable[[], object]) -> None:
        self.rng, self.turn = rng, turn
        self.window: Window | None = None

    def any_way(self) -> Callable[[], str]:
        """One of the ways, each in its share; called it says what it did."""
        ways: tuple[tuple[float, Callable[[], str]], ...] = (
            (0.30, self.click),
            (0.10, self.drag),
            (0.10, self.key),
            (0.10, self.type),
            (0.08, self.page),
            (0.12, self.command),
            (0.06, self.undo),
            (0.08, self.action),
            (0.03, self.choose),
            (0.03, self.wait),
        )
        return ways[int(self.rng.choice(len(ways), p=[share for share, _ in ways]))][1]

    def any(self, given: Any) -> Any:
        """One of them."""
        return given[int(self.rng.integers(len(given)))]

    def answer_popup(self) -> None:
        """A menu that is open: something of it, or away with it. Some menus hold the loop until then."""
        popup = QApplication.activePopupWidget()
        if popup is None:
            return
        for _ in range(int(self.rng.integers(6))):
            if isValid(popup):
                QTest.keyClick(popup, Qt.Key.Key_Down)
                self.turn()
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
        return self.any(buttons or self._seen())

    def _place(self, widget: QWidget) -> QPoint:
        return QPoint(int(self.rng.integers(widget.width())), int(self.rng.integers(max(widget.height(), 1))))

    def _named(self, widget: QWidget) -> str:
        words = widget.text() if isinstance(widget, QAbstractButton) else widget.accessibleName()
        return f"{type(widget).__name__} {words[:30]!r}"

    def _modifier(self) -> Qt.KeyboardModifier:
        none = Qt.KeyboardModifier.NoModifier
        return self.any(
            (none, none, none, Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.ControlModifier)
        )

    def click(self) -> str:
        """A click, or two, on any widget."""
        widget = self._target()
        said = f"click {self._named(widget)}"
        if isinstance(widget, QAbstractItemView):
            widget = widget.viewport()
        button = Qt.MouseButton.LeftButton if self.rng.random() < 0.9 else Qt.MouseButton.RightButton
        way = QTest.mouseDClick if self.rng.random() < 0.1 else QTest.mouseClick
        way(widget, button, self._modifier(), self._place(widget))
        return said

    def drag(self) -> str:
        """A drag within any widget."""
        widget = self.any(self._seen())
        said, start, end = f"drag over {self._named(widget)}", self._place(widget), self._place(widget)
        left, held = Qt.MouseButton.LeftButton, self._modifier()
        QTest.mousePress(widget, left, held, start)
        for share in (0.3, 0.7, 1.0):
            self.turn()
            if isValid(widget):
                QTest.mouseMove(widget, start + (end - start) * share)
                self.turn()
                QApplication.processEvents()
        self.turn()
        if isValid(widget):
            QTest.mouseRelease(widget, left, held, end)
        return said

    def key(self) -> str:
        """A key, to whoever has the keys."""
        assert self.window is not None
        focus = QApplication.focusWidget() or self.window
        key, held = self.any(KEYS), self._modifier()
        if held == Qt.KeyboardModifier.ControlModifier and key in (Qt.Key.Key_Q, Qt.Key.Key_P, Qt.Key.Key_W):
            held = Qt.KeyboardModifier.NoModifier
        QTest.keyClick(focus, key, held)
        return f"key {key.name} {held.name}"

    def type(self) -> str:
        """Words into a field."""
        fields = [
            one for one in self._seen((QLineEdit, QPlainTextEdit)) if not one.isReadOnly() and one.isEnabled()
        ]
        if not fields:
            return "no field"
        field, words = self.any(fields), self.any(TYPED)
        said = f"type {words!r} into {self._named(field)}"
        field.setFocus()
        field.selectAll()
        for letter in words:
            self.turn()
            if isValid(field):
                QTest.keyClicks(field, letter)
        self.turn()
        if isValid(field) and self.rng.random() < 0.6:
            QTest.keyClick(field, Qt.Key.Key_Return)
        return said

    def choose(self) -> str:
        """A row of a drop-down."""
        boxes = [box for box in self._seen(QComboBox) if box.count() and box.isEnabled()]
        if not boxes:
            return "no box"
        box, row = self.any(boxes), 0
        row = int(self.rng.integers(box.count()))
        said = f"choose {box.itemText(row)!r}"
        box.setCurrentIndex(row)
        box.activated.emit(row)
        return said

    def page(self) -> str:
        """Another page."""
        assert self.window is not None
        name = self.any(list(self.window.stack.pages))
        self.window.show_page(name)
        return f"page {name}"

    def wait(self) -> str:
        """Half a second."""
        end = time.perf_counter() + 0.5
        while time.perf_counter() < end:
            self.turn()
            QApplication.processEvents()
            time.sleep(0.005)
        return "wait"

    def undo(self) -> str:
        """Back, or forth."""
        assert self.window is not None
        back = self.rng.random() < 0.6
        (self.window.undo if back else self.window.redo)()
        return "undo" if back else "redo"

    def command(self) -> str:
        """A command as such, with places that may be wrong."""
        assert self.window is not None
        desk, state = self.window.desk, self.window.study.state
        steps = len(state.recipe.treat)
        which = int(self.rng.integers(6))
        if which <= 1 and state.table is not None and steps < 5:
            declared = self.any(list(all_treatments().values()))
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

    def action(self) -> str:
        """Something of the list of actions."""
        assert self.window is not None
        listed = [
            one for one in self.window.actions_list if not any(word in one.words.lower() for word in NEVER)
        ]
        action = self.any(listed)
        action.run()
        return f"action {action.words!r}"


@contextmanager
def nobody_answers() -> Iterator[None]:
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
