"""Going to another page and back draws each plot once and moves nothing; so does another window and back."""

import unittest
from collections import Counter

from PySide6.QtCore import QEvent, QObject
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QApplication

from scutcher.desk.painting.area import PlotArea
from tests.desk.driving import WindowCase, settle


class Drawn(QObject):
    """Counts how often each plot is drawn and how often it gets another size."""

    def __init__(self, window):
        super().__init__()
        self.drawn, self.sized = Counter(), Counter()
        for plot in window.findChildren(PlotArea):
            plot.viewport().installEventFilter(self)

    def eventFilter(self, watched, event):
        if event.type() == QEvent.Type.Paint:
            self.drawn[watched] += 1
        elif event.type() == QEvent.Type.Resize:
            self.sized[watched] += 1
        return False


class ThereAndBack(WindowCase):
    demo = "intake-nir"

    def test_each_plot_is_drawn_once(self):
        for page in ("Inspect", "Rank", "Treat", "Samples"):
            self.window.show_page(page)
            self.until(lambda: not self.desk.live.busy and self.desk.live.checking is None)
            QTest.qWait(400)  # until every line is drawn in place of a few
        for page in ("Inspect", "Treat", "Inspect", "Rank"):
            with self.subTest(page=page):
                self.window.show_page("Samples" if page != "Samples" else "Inspect")
                settle(8)
                seen = Drawn(self.window)
                self.window.show_page(page)
                settle(8)
                plots = [one for one in self.window.view(page).findChildren(PlotArea) if one.isVisible()]
                self.assertGreater(len(plots), 0)
                for plot in plots:
                    self.assertEqual(seen.drawn[plot.viewport()], 1, type(plot).__name__)
                self.assertEqual(seen.sized, Counter())

    def test_a_window_that_is_active_again_looks_the_same(self):
        self.window.show_page("Inspect")
        settle(8)
        seen = Drawn(self.window)
        for kind in (QEvent.Type.WindowDeactivate, QEvent.Type.WindowActivate):
            for plot in self.window.findChildren(PlotArea):
                QApplication.sendEvent(plot.scene(), QEvent(kind))
            settle(4)
        self.assertEqual(seen.drawn, Counter())


if __name__ == "__main__":
    unittest.main()
