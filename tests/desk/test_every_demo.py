"""Other data after other data, on every page, with a step chosen and ghosts shown: nothing old stays."""

import itertools
import sys
import unittest
from unittest import mock

from scutcher.demo.sets import demo_set
from scutcher.desk.actions.opening import DEMOS
from scutcher.study.document.commands.data import BringIn
from tests.desk.driving import WindowCase, settle

AMONG = {
    "Samples": ("intake-nir", "tank-log", "belt-scan", "bark-profile", "liquor-landscapes"),
    "Treat": ("intake-nir", "bench", "tank-log", "drying", "practice", "new-lots"),
    "Rank": ("intake-nir", "tank-log", "drying-curves", "practice", "belt-scan"),
    "Inspect": ("bench", "tank-log", "belt-scan", "drying", "bark-profile"),
}
"""On each page a few that are as different as can be, and each set on some page; every pair of all ten sets
on every page would take many minutes."""


def every_pair(names):
    """A walk that goes from each name to each other one."""
    left = {name: [other for other in names if other != name] for name in names}
    path, walk = [names[0]], []
    while path:  # Hierholzer's way round all edges
        if left[path[-1]]:
            path.append(left[path[-1]].pop())
        else:
            walk.append(path.pop())
    return walk[::-1]


class EveryDemo(WindowCase):
    demo = "practice"

    def setUp(self):
        super().setUp()
        self.errors = []
        hook = mock.patch.object(sys, "excepthook", lambda kind, error, trace: self.errors.append(error))
        hook.start()
        self.addCleanup(hook.stop)

    def go(self, page, among=DEMOS):
        """From every demo to every other one, with another knot chosen each time."""
        self.window.show_page(page)
        sets = {name: demo_set(name)[0] for name in among}
        some = [name for name in among if name in AMONG.get(page, among)]
        walk = every_pair(some)
        self.assertEqual(len(set(itertools.pairwise(walk))), len(some) * (len(some) - 1))
        for step, (before, name) in enumerate(itertools.pairwise(walk)):
            with self.subTest(f"{before} → {name}"):
                self.window.opening.open_demo(name)
                settle()
                self.until(lambda: not self.desk.live.busy)
                settle()
                self.assertEqual(self.errors, [])
                self.assertEqual(self.state.table.shape, sets[name].shape)
                self.check(self.window.view(page))
                self.desk.selection.pick([0, 3])
                stages = len(self.desk.moment.found.stages)
                self.desk.selection.change(stage=step % (stages + 1), channel=float(step), hovered=1)
                settle()
                self.assertEqual(self.errors, [])
        while self.window.study.undo_label:  # and all the way back
            self.window.undo()
            settle(1)
        self.assertEqual(self.errors, [])

    def check(self, view):
        """Whatever is drawn is of the samples and the variables that there are now."""
        n, p = self.state.table.shape
        for shown in view.views():
            chart = shown.chart
            if chart is None or not shown.isVisible():
                continue
            for marks in (chart.marks, chart.ghosts):
                if marks is not None and len(marks.keys):
                    self.assertLess(int(marks.keys.max()), max(n, p))
            if chart.lines is not None and chart.lines.role == "sample":
                self.assertLess(int(chart.lines.keys.max()), n)

    def test_samples(self):
        self.go("Samples")

    def test_treat(self):
        self.window.show_page("Treat")
        self.window.view("Treat")._set_ghosts(True)
        self.go("Treat")

    def test_series(self):
        self.window.opening.open_demo("drying")
        settle()
        self.go("Series", ("drying", "tank-log", "liquor-landscapes"))

    def test_rank(self):
        self.go("Rank")

    def test_inspect(self):
        self.go("Inspect")

    def test_inspect_with_means_ellipses_and_new_samples(self):
        self.window.opening.open_demo("intake-nir")
        settle()
        self.page.strips.means_switch.click()
        self.desk.live.bring(demo_set("new-lots")[0])
        settle()
        self.assertIsNotNone(self.page.newcomers.now())
        table = demo_set("drying")[0]
        self.desk.do(BringIn("drying", table, self.state.recipe))
        settle()
        self.assertIsNone(self.desk.live.brought)  # new samples of other data do not stay
        self.assertEqual(self.errors, [])


if __name__ == "__main__":
    unittest.main()
