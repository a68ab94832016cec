"""Where data go that are opened: never into a study that has a name or work in it, unless that is said."""

import os
import sys
import unittest
from unittest import mock

import numpy as np
from PySide6.QtTest import QTest

from scutcher.demo.sets import write_demo_sets
from scutcher.desk.widgets.popover import Choice
from scutcher.files import formats
from scutcher.study.document.commands.recipe import KeepComponents
from scutcher.study.document.study import Study
from tests.desk.driving import CTRL, LEFT, WindowCase, settle
from tests.folder import InFolder


class Opened(InFolder, WindowCase):
    def prepare(self):
        super().prepare()
        patch = mock.patch.dict(os.environ, {"XDG_STATE_HOME": str(self.folder / "state")})
        patch.start()
        self.addCleanup(patch.stop)
        write_demo_sets(self.folder / "data", ["bench"])

    def setUp(self):
        super().setUp()
        self.opened = []
        self.window.opening.open_state = self.opened.append

    def open(self, name):
        self.window.opening.open_files([self.folder / "data" / name])
        self.wait_for_reading()

    def asked(self):
        return next((paper for paper in self.window.findChildren(Choice) if paper.isVisible()), None)

    def test_an_untouched_study_without_a_name_takes_the_data(self):
        self.open("bench.csv")
        self.assertIsNone(self.asked())
        self.assertEqual(self.state.name, "bench")

    def test_a_study_with_work_in_it_is_asked_about_and_stays(self):
        self.desk.do(KeepComponents(2))
        before = self.state
        self.open("bench.csv")
        paper = self.asked()
        self.assertIs(self.state, before)
        self.assertEqual(list(paper.buttons), ["Open a new study", "Add to intake-nir"])
        QTest.mouseClick(paper.buttons["Open a new study"], LEFT)
        settle()
        self.assertIs(self.state, before)
        self.assertEqual(self.opened[0].name, "bench")
        self.assertEqual(self.opened[0].table.shape[0], 48)

    def test_a_named_study_is_not_changed_on_the_disk_either(self):
        self.assertTrue(self.window.filing.name_study(self.folder / "mill.scutch"))
        kept = (self.folder / "mill.scutch").read_bytes()
        self.open("bench.csv")
        QTest.mouseClick(self.asked().buttons["Open a new study"], LEFT)
        settle()
        self.assertEqual((self.folder / "mill.scutch").read_bytes(), kept)
        self.assertEqual(self.window.windowTitle(), "mill — Scutcher")
        self.assertEqual(self.state.table.shape, (144, 700))

    def test_added_it_stands_beside_what_was_there_and_each_has_its_model(self):
        self.window.trail.shelf.put()
        first = self.state
        self.open("bench.csv")
        QTest.mouseClick(self.asked().buttons["Add to intake-nir"], LEFT)
        settle()
        self.assertEqual([data.name for data in self.state.datasets], ["intake-nir", "bench"])
        self.assertEqual(self.state.table.shape[0], 48)
        self.assertEqual(len(self.state.shelf), 2)
        self.assertEqual(self.desk.moment.found.scaling.method, "sd")
        self.window.trail.shelf.open(0)
        settle()
        self.assertEqual(self.state.table.shape, (144, 700))
        self.assertEqual(self.state.colour_by, first.colour_by)
        np.testing.assert_array_equal(self.state.table.values, first.table.values)

    def test_what_is_set_aside_belongs_to_the_model(self):
        from scutcher.study.document.commands.samples import SetAside, Watch

        self.window.trail.shelf.put()
        self.desk.do(SetAside((0, 1), "wet"))
        self.desk.do(Watch((5,)))
        self.assertEqual(sorted(self.state.table.set_aside), [0, 1, 5])
        self.assertEqual(dict(self.state.shelf[0].use.set_aside), {})
        self.window.trail.shelf.open(0)
        settle()
        self.assertEqual(dict(self.state.table.set_aside), {})
        self.assertEqual(sorted(self.state.shelf[-1].use.set_aside), [0, 1])
        self.assertEqual(self.state.shelf[-1].use.watched, (5,))

    def test_cancelled_nothing_happens(self):
        self.desk.do(KeepComponents(2))
        before = self.state
        self.open("bench.csv")
        self.asked().dismiss()
        settle()
        self.assertIs(self.state, before)
        self.assertEqual(self.opened, [])

    def test_a_new_study(self):
        self.key("n", CTRL)
        self.assertIsNone(self.opened[0].table)

    def test_large_data_with_other_axes_are_resampled_when_asked(self):
        places = (np.arange(900.0, 1300.0), np.arange(900.5, 1300.5))
        for name, axis in zip("ab", places, strict=True):
            values = np.random.default_rng(3).normal(size=(600, 400)).round(5).tolist()
            rows = [",".join(["id", *map(str, axis.tolist())])]
            rows += [",".join([f"{name}{place}", *map(str, row)]) for place, row in enumerate(values)]
            (self.folder / f"{name}.csv").write_text("\n".join(rows))
        self.window.opening.open_files([self.folder / "a.csv", self.folder / "b.csv"])
        self.wait_for_reading()
        self.assertIn("The axes differ", self.window.message.label.text())
        QTest.mouseClick(self.window.message.act, LEFT)
        self.wait_for_reading()
        self.assertEqual(self.state.table.shape[0], 1200)
        self.assertTrue(self.state.source.resampled)

    def test_a_mistake_while_reading_is_reported(self):
        errors = []
        with (
            mock.patch.object(formats, "read_tables", side_effect=ZeroDivisionError("by hand")),
            mock.patch.object(sys, "excepthook", lambda kind, error, trace: errors.append(error)),
        ):
            self.open("bench.csv")
        self.assertIsInstance(errors[0], ZeroDivisionError)
        self.assertFalse(self.window.opening.reading.busy)


class Nothing(WindowCase):
    def study(self):
        return Study()

    def test_data_go_into_an_empty_study(self):
        self.window.opening.open_demo("practice")
        settle()
        self.assertEqual(self.state.name, "practice")


if __name__ == "__main__":
    unittest.main()
