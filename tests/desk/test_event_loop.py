"""The window goes on while much is computed behind: no turn of its loop takes many times a repaint.

A ratio to repaints in the same run, of what the interface thread itself computes: a busy machine makes both
slower, and may keep either waiting.
"""

import statistics
import time
import unittest
from dataclasses import replace

import numpy as np
from bench.fitting import data, table_of
from bench.gaps import QUIET, longest_gap
from PySide6.QtTest import QTest

from scutcher.core.data.columns import ClassColumn
from scutcher.desk.shell.ending import dispose
from scutcher.desk.shell.start import application
from scutcher.desk.shell.window import Window
from scutcher.study.document.commands.recipe import AddStep, KeepComponents
from scutcher.study.document.commands.samples import SetAside
from scutcher.study.document.state import State
from scutcher.study.document.study import Study
from tests.desk.driving import LEFT, QUICK, settle

SAMPLES, CHANNELS = 1_600, 170
MOST, FEW = 40, 12
"""Repaints that a turn may take, and one with wide data: one draws all views anew, a second held up would
be a hundred."""


class OnWindow(unittest.TestCase):
    SHAPE, CALM = (SAMPLES, CHANNELS), QUIET

    def setUp(self):
        application()
        codes = tuple(f"c{k % 4}" for k in range(self.SHAPE[0]))
        table = replace(table_of(data(*self.SHAPE)), classes=(ClassColumn("kind", codes),))
        self.window = Window(Study(State.of("much", table, QUICK)))
        self.addCleanup(dispose, self.window)
        self.first = self.after(self.window.show)

    def after(self, act):
        """The longest turn after something was done, in repaints of the window."""
        repaints = [self.repaint()]
        longest = max(longest_gap(self.window, act, time.thread_time, self.CALM))
        repaints += [self.repaint() for _ in range(4)]
        return longest / statistics.median(repaints)

    def repaint(self):
        start = time.thread_time()
        self.window.repaint()
        settle(1)
        return time.thread_time() - start


class MuchData(OnWindow):
    def test_while_a_model_and_its_checks_are_computed(self):
        for words, act in (
            ("a treatment", lambda: self.window.desk.do(AddStep("snv"))),
            ("a slow treatment", lambda: self.window.desk.do(AddStep("arpls"))),
            ("that taken back", lambda: self.window.undo()),
            ("one component more", lambda: self.window.desk.do(KeepComponents(5))),
            ("two set aside", lambda: self.window.desk.do(SetAside((3, 7), "x"))),
            ("a thousand set aside", lambda: self.window.desk.do(SetAside(tuple(range(1000)), "x"))),
            ("a pick", lambda: self.window.selection.pick(range(1500, 1540))),
        ):
            with self.subTest(words):
                self.assertLess(self.after(act), MOST)

    def test_while_classes_are_judged(self):
        self.window.show_page("Groups")
        settle()
        panel = self.window.view("Groups").labelled.held_out
        judging = self.window.view("Groups").labelled.judging
        self.assertLess(self.after(lambda: None), MOST)
        end = time.monotonic() + 120.0
        while judging.held is None and time.monotonic() < end:
            settle()
            time.sleep(0.01)
        self.assertLess(self.after(lambda: QTest.mouseClick(panel.along, LEFT)), MOST)
        self.assertTrue(np.isfinite(panel.view.chart.marks.x).all())


class WideData(OnWindow):
    """As many values, and far more channels than pixels."""

    SHAPE, CALM = (250, 40_000), 0.4

    def test_on_the_inspect_page(self):
        self.assertLess(self.first, FEW)
        strips = self.window.view("Inspect").strips
        for words, act in (
            ("a treatment", lambda: self.window.desk.do(AddStep("snv"))),
            ("a pick", lambda: self.window.selection.pick([3])),
            ("many picked", lambda: self.window.selection.pick(range(100))),
            ("means", strips.means_switch.click),
            ("a shade", lambda: strips.choose_shade("size")),
            ("a wheel step", lambda: strips.signals_view.ground.scaleBy((0.8, 1.0))),
        ):
            with self.subTest(words):
                self.assertLess(self.after(act), FEW)
        self.assertTrue(np.isfinite(strips.leftover_view.chart.ribbon.low).all())


if __name__ == "__main__":
    unittest.main()
