"""Drives a real window: click, drag, type; then read the state and the picture."""

from __future__ import annotations

import time
import unittest
from collections.abc import Callable
from functools import cache
from pathlib import Path
from unittest import mock

import numpy as np
from PySide6.QtCore import QEvent, QPoint, QPointF, Qt
from PySide6.QtGui import QImage, QMouseEvent
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication, QWidget

from scutcher.charts import colours
from scutcher.core.recipes.recipe import recipe_from_plain
from scutcher.desk.shell.beginning import demo_study
from scutcher.desk.shell.ending import dispose
from scutcher.desk.shell.start import application
from scutcher.desk.shell.window import Window
from scutcher.study import running_checks
from scutcher.study.document.commands.recipe import AddStep
from scutcher.study.document.state import State
from scutcher.study.document.study import Study
from scutcher.study.evaluation.cache import shared

NO, LEFT = Qt.KeyboardModifier.NoModifier, Qt.MouseButton.LeftButton
SHIFT, CTRL = Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.ControlModifier

PATIENCE = 180.0  # seconds


FEW = {"permutations": 19}
QUICK = recipe_from_plain({"evidence": {**FEW, "halves": 1}, "groups": FEW, "validate": {"segments": 4}})
"""A recipe whose checks take little time, where no test looks at their figures."""


@cache
def demo_state(name: str) -> State:
    """The state that a demo begins with: made once, since nothing can change it."""
    return demo_study(name).state


def settle(rounds: int = 4) -> None:
    """Let everything that was asked for happen."""
    for _ in range(rounds):
        QApplication.processEvents()


def comes(true: Callable[[], bool]) -> bool:
    """Whether something happens behind, in longer than a busy machine takes."""
    end = time.monotonic() + PATIENCE
    while not (came := true()) and time.monotonic() < end:
        QApplication.processEvents()
        time.sleep(0.01)  # unlike QTest.qWait it lets the threads behind go on
    return came


class WindowCase(unittest.TestCase):
    """A window on the demo, or on the study that `study` gives.

    Only where a test `validates` does the validation behind start at once: elsewhere it would take most of
    the time, and nobody looks at it.
    """

    validates = False
    demo = "intake-nir"
    first_page = "Inspect"
    _page = None

    @classmethod
    def setUpClass(cls) -> None:
        super().setUpClass()
        shared.cache_clear()  # a class finds nothing of others; its own tests begin with the same data

    def study(self) -> Study:
        return Study(demo_state(self.demo))

    def setUp(self) -> None:
        application()
        if not self.validates:
            later = mock.patch.multiple(running_checks, QUIET=6.0, QUIET_STEPS=300)
            later.start()
            self.addCleanup(later.stop)
        self.window = Window(self.study(), first=self.first_page)
        self.addCleanup(dispose, self.window)
        self.window.show()
        if self.first_page != self.window.stack.current:
            self.window.show_page(self.first_page)
        self.window.activateWindow()
        QTest.qWaitForWindowActive(self.window)
        settle()
        self.desk = self.window.desk

    @property
    def page(self):
        """The page that is tested: Inspect, unless a test says another; made when it is first asked for."""
        return self.window.view("Inspect") if self._page is None else self._page

    @page.setter
    def page(self, page):
        self._page = page

    @property
    def state(self):
        return self.desk.study.state

    @property
    def look(self):
        return self.desk.selection.look

    @property
    def model(self):
        return self.desk.moment.found.model

    def add(self, method: str, **parameters: object) -> None:
        """Add a step to the end of the trail and choose its knot."""
        step = recipe_from_plain({"treat": [{"method": method, **parameters}]}).treat[0]
        self.assertTrue(self.desk.do(AddStep(method, step.parameters)))
        self.desk.selection.change(stage=len(self.state.recipe.treat))
        settle()

    def row(self, name: str) -> int:
        """The row of a sample by id."""
        return self.state.table.ids.index(name)

    def mark_place(self, view, row: int) -> QPoint:
        """Where the mark of a sample is on a plane, in pixels of its viewport."""
        marks = view.chart.marks
        place = int(np.flatnonzero(marks.keys == row)[0])
        return self.data_place(view, float(marks.x[place]), float(marks.y[place]))

    def data_place(self, view, x: float, y: float) -> QPoint:
        """Where data are in a view, in pixels of its viewport."""
        return view.mapFromScene(view.ground.mapViewToScene(QPointF(x, y)))

    def click(self, view, place: QPoint, modifiers=NO) -> None:
        """Click into a plot."""
        QTest.mouseMove(view.viewport(), place)
        QTest.mouseClick(view.viewport(), LEFT, modifiers, place)
        settle()

    def drag(self, widget: QWidget, places: list[QPoint], modifiers=NO, release: bool = True) -> None:
        """Press at the first place, move through the others, let go at the last."""
        self.send(widget, QEvent.Type.MouseButtonPress, places[0], modifiers)
        for place in places[1:]:
            self.send(widget, QEvent.Type.MouseMove, place, modifiers)
        if release:
            self.send(widget, QEvent.Type.MouseButtonRelease, places[-1], modifiers)
        settle()

    def send(self, widget: QWidget, kind: QEvent.Type, place: QPoint, modifiers=NO) -> None:
        """One mouse event with the left button."""
        held = Qt.MouseButton.NoButton if kind == QEvent.Type.MouseButtonRelease else LEFT
        button = Qt.MouseButton.NoButton if kind == QEvent.Type.MouseMove else LEFT
        where = QPointF(place)
        event = QMouseEvent(kind, where, widget.mapToGlobal(where), button, held, modifiers)
        QApplication.sendEvent(widget, event)

    def key(self, key: str | Qt.Key, modifiers=NO, widget: QWidget | None = None) -> None:
        """Press a key; the window is the active one, as when a person presses it."""
        if not self.window.isActiveWindow():
            self.window.activateWindow()
            QTest.qWaitForWindowActive(self.window)
        QTest.keyClick(widget or self.window, key, modifiers)
        settle()

    def written(self, path: Path) -> Path:
        """A file that is written behind, when it is there."""
        self.until(lambda: not self.desk.live.queue.has(f"writing {path}"))
        self.assertTrue(path.exists())
        return path

    def until(self, true: Callable[[], bool]) -> None:
        """Wait for something that happens behind, longer than a busy machine takes."""
        self.assertTrue(comes(true))

    def wait_for_reading(self) -> None:
        """Until what is being read behind has arrived."""
        self.until(lambda: not self.window.opening.reading.busy)
        settle()

    def type(self, text: str, widget: QWidget) -> None:
        """Type text."""
        QTest.keyClicks(widget, text)
        settle()


def pixels(widget: QWidget) -> np.ndarray:
    """What a widget shows, (height, width, 3)."""
    image = widget.grab().toImage().convertToFormat(QImage.Format.Format_RGB888)
    flat = np.frombuffer(image.constBits(), dtype=np.uint8)
    rows = flat.reshape(image.height(), image.bytesPerLine())[:, : image.width() * 3]
    return rows.reshape(image.height(), image.width(), 3).copy()


def count_colour(widget: QWidget, colour: str, tolerance: int = 24) -> int:
    """How many pixels of a widget are near a colour."""
    away = np.abs(pixels(widget).astype(int) - np.array(colours.rgb(colour)))
    return int((away.max(axis=2) <= tolerance).sum())
