"""A folder watched from the window: files come, the strip grows, who does not belong is named."""

import csv
import tempfile
import unittest
from dataclasses import replace
from pathlib import Path
from unittest import mock

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest
from PySide6.QtWidgets import QFileDialog, QLabel

from scutcher.charts import colours
from scutcher.charts.watched import control_strip, watched_finding, watched_rows
from scutcher.demo.sets import demo_set
from scutcher.files.writing import write_csv
from scutcher.study.watching import Seen
from tests.desk.driving import LEFT, WindowCase, pixels, settle


class Watched(WindowCase):
    def setUp(self):
        super().setUp()
        folder = tempfile.TemporaryDirectory()
        self.addCleanup(folder.cleanup)
        self.folder = Path(folder.name)
        self.table = demo_set("intake-nir")[0]

    def write(self, name, rows, spoil=False):
        part = self.table.take(np.array(rows))
        if spoil:
            values = part.values.copy()
            values[:, 300:330] += 0.2
            part = part.with_values(values)
        write_csv(replace(part, ids=tuple(f"{name}-{row}" for row in rows)), self.folder / f"{name}.csv")

    def begun(self):
        with mock.patch.object(QFileDialog, "getExistingDirectory", return_value=str(self.folder)):
            next(one for one in self.window.actions_list if one.words.startswith("Watch a folder")).run()
        settle()
        page = self.window.stack.over
        page.timer.setInterval(30)
        return page

    def test_files_come_and_the_one_that_does_not_belong_is_named(self):
        page = self.begun()
        self.assertIn("appear here", page.view.chart.empty)
        self.write("good", [10, 11, 12])
        self.until(lambda: len(page.seen) == 3)
        self.write("bad", [20], spoil=True)
        self.until(lambda: len(page.seen) == 4)
        settle()
        self.assertIn("4 samples so far; 1 not of this model: bad-20", page.finding.sentence)
        self.assertEqual(page.table.item(0, 1).text(), "bad-20")
        self.assertEqual(page.table.item(0, 5).text(), "no")
        self.assertIn("nm", page.table.item(0, 6).text())
        self.assertEqual(len(page.view.chart.marks.x), 4)
        shown = pixels(page.view).reshape(-1, 3).astype(int)
        alarm = (np.abs(shown - colours.rgb(colours.ALARM)).sum(axis=1) < 30).sum()
        self.assertGreater(alarm, 20)  # the limit, and the ring
        plain = (np.abs(shown - colours.rgb(colours.NO_CLASS_COLOUR)).sum(axis=1) < 30).sum()
        self.assertGreater(plain, 60)  # a mark for each
        with (self.folder / "scutcher-watched.csv").open() as stream:
            rows = list(csv.DictReader(stream))
        self.assertEqual([row["belongs"] for row in rows], ["yes", "yes", "yes", "no"])

    def test_nobody_looks_while_nothing_happens(self):
        page = self.begun()
        if not page.events.told:
            self.skipTest("this folder lies where nothing is told")
        self.write("first", [10])
        self.until(lambda: len(page.seen) == 1 and not page.watching.waits)
        looks, look = [], page.watching.look
        page.watching.look = lambda: (looks.append(1), look())[1]
        QTest.qWait(150)
        looks.clear()
        page._idle = -1e9  # the look that is due now and then is not meant
        QTest.qWait(600)
        self.assertEqual(len(looks), 0)
        self.write("second", [11])
        self.until(lambda: len(page.seen) == 2)
        page._idle = 1e9
        looks.clear()
        self.until(lambda: bool(looks))

    def test_it_is_left_by_its_button_only_and_then_nothing_is_read(self):
        page = self.begun()
        self.key(Qt.Key.Key_Escape)
        self.assertIs(self.window.stack.over, page)
        QTest.mouseClick(page.words["q"], LEFT)
        settle()
        QTest.mouseClick(page.stop, LEFT)
        settle()
        self.assertIsNone(self.window.stack.over)
        self.write("late", [1])
        settle(20)
        with (self.folder / "scutcher-watched.csv").open() as stream:
            self.assertEqual(len(stream.readlines()), 1)

    def test_a_folder_that_goes_away_is_said_and_the_watching_can_go_on(self):
        page = self.begun()
        moved = self.folder.with_name(self.folder.name + "-moved")
        self.folder.rename(moved)
        self.until(lambda: self.window.message.isVisible())
        self.assertFalse(page.timer.isActive())
        moved.rename(self.folder)
        page._go_on()
        self.write("back", [5])
        self.until(lambda: len(page.seen) == 1)

    def test_without_a_model_it_is_said(self):
        with mock.patch("scutcher.study.evaluation.saving.saved_model"):
            self.window.papers.watch(self.folder / "nowhere")
        self.assertIsNone(self.window.stack.over)
        words = " ".join(label.text() for label in self.window.message.findChildren(QLabel))
        self.assertIn("There is no folder", words)


class Words(unittest.TestCase):
    def test_what_is_said_and_listed(self):
        seen = [
            Seen("a.csv", "s1", 1.0, 2.0, 0.5, "yes"),
            Seen("b.csv", why="It holds no table."),
            Seen("c.csv", "s2", 9.0, 8.0, None, "no", "past Q", ("1450 nm",)),
        ]
        self.assertEqual(
            watched_finding(seen)[0][0],
            "2 samples so far; 1 not of this model: s2; 1 could not be read.",
        )
        self.assertEqual(watched_finding([])[0][0], "0 samples so far.")
        rows = watched_rows(seen)
        self.assertEqual([row[0] for row in rows], ["c.csv", "b.csv", "a.csv"])
        self.assertEqual(rows[0][-1], "past Q; 1450 nm")
        chart = control_strip(seen, {"q": 4.0, "joint": 1.0}, "q")
        np.testing.assert_allclose(chart.marks.y, [0.5, 2.0])
        np.testing.assert_allclose(chart.flags[0].x, [3.0])
        self.assertEqual(len(control_strip(seen, {"joint": 1.0}, "joint").marks.x), 1)
        self.assertIn("no limit", control_strip(seen, {}, "q").empty)


if __name__ == "__main__":
    unittest.main()
