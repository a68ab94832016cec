"""Hints on the demo: five, one at a time, only where there is room, and sent away for ever."""

import unittest

from PySide6.QtTest import QTest

from scutcher.desk.trail.hints import HINTS
from scutcher.study.document.commands.recipe import AddStep
from scutcher.study.storage.settings import Settings, keep, settings
from tests.desk.driving import LEFT, WindowCase, settle


class OnTheDemo(WindowCase):
    def setUp(self):
        keep(Settings())
        self.addCleanup(keep, Settings())
        super().setUp()
        self.window.resize(1280, 900)
        settle(8)
        self.hints = self.window.trail.hints

    def test_one_after_the_other(self):
        self.assertTrue(self.hints.isVisible())
        seen = []
        for _ in HINTS:
            seen.append(self.hints.words.text())
            QTest.mouseClick(self.hints.next, LEFT)
        self.assertEqual(tuple(seen), HINTS)
        self.assertEqual(self.hints.words.text(), HINTS[0])
        for hint in HINTS:
            self.hints.words.setText(hint)
            needed = self.hints.words.heightForWidth(self.hints.words.width())
            self.assertLessEqual(needed, self.hints.words.height() + 2, hint)

    def test_sent_away_they_stay_away(self):
        QTest.mouseClick(self.hints.enough, LEFT)
        settle()
        self.assertFalse(self.hints.isVisible())
        self.assertTrue(settings().no_hints)
        self.desk.do(AddStep("savitzky-golay"))
        settle(8)
        self.assertFalse(self.hints.isVisible())

    def test_on_pictures_there_are_none_whatever_changes(self):
        self.hints.forbid()
        self.desk.do(AddStep("savitzky-golay"))
        settle(8)
        self.assertFalse(self.hints.isVisible())
        self.assertFalse(settings().no_hints)

    def test_they_never_make_the_knots_scroll(self):
        shown = set()
        for height in range(640, 700, 2):
            self.window.resize(1024, height)
            settle(6)
            shown.add(self.hints.isVisible())
            if self.hints.isVisible():
                bar = self.window.trail._scroll.verticalScrollBar()
                self.assertEqual(bar.maximum(), 0, height)
        self.assertIn(True, shown)

    def test_they_give_way_where_there_is_no_room(self):
        self.window.resize(1024, 640)
        self.desk.do(AddStep("savitzky-golay"))
        self.desk.do(AddStep("baseline-polynomial"))
        settle(8)
        self.assertFalse(self.hints.isVisible())
        self.window.resize(1280, 900)
        settle(8)
        self.assertTrue(self.hints.isVisible())


class OnOtherData(WindowCase):
    demo = "bench"

    def test_there_are_none(self):
        self.window.resize(1280, 900)
        settle(8)
        self.assertFalse(self.window.trail.hints.isVisible())


if __name__ == "__main__":
    unittest.main()
