"""New samples on the models of classes: brought in on the page, listed, drawn, sent away."""

import tempfile
import unittest
from dataclasses import replace
from pathlib import Path

import numpy as np
from PySide6.QtCore import QPoint
from PySide6.QtTest import QTest

from scutcher.charts.overlays import NEW
from scutcher.core.data.columns import ClassColumn
from scutcher.core.models.pca.saved_model import project
from scutcher.files.writing import write_table
from scutcher.study.document.state import State
from scutcher.study.document.study import Study
from tests.desk.driving import LEFT, QUICK, settle
from tests.desk.pages.test_groups_more import OnModels
from tests.study.test_class_models import drawn


class NewOnes(OnModels):
    def study(self):
        self.table, self.codes = drawn(n=130)
        return Study(State.of("planes", self.table.take(np.arange(90)), QUICK))

    def bring(self, table):
        with tempfile.TemporaryDirectory() as folder:
            write_table(table, Path(folder) / "later.h5")
            self.window.papers.bring_new([Path(folder) / "later.h5"])
            self.wait_for_reading()
        self.until(lambda: self.view.new.shown is not None)
        settle()

    def later(self):
        """Forty samples that no model has seen, five of them of no class at all."""
        table = self.table.take(np.arange(90, 130))
        values = table.values.copy()
        values[:5] += np.random.default_rng(2).normal(size=(5, 12)) * 8.0
        return replace(table, values=values, classes=())

    def test_they_are_listed_drawn_and_sent_away(self):
        self.assertFalse(self.view.listing.kinds["new"].isEnabled())
        later = self.later()
        self.bring(later)
        self.assertIs(self.window.stack.shown, self.whole)  # the page that lists them is not left
        self.assertTrue(self.view.listing.kinds["new"].isChecked())
        ratios = np.column_stack([self.by_hand(model.saved, later) for model in self.view.found.models])
        inside = ratios <= 1.0
        self.lists(later, ratios, inside)
        self.draws(ratios)
        one, none = int((inside.sum(axis=1) == 1).sum()), int((~inside.any(axis=1)).sum())
        self.assertIn(f"new (later): {one} of 40 to one", self.whole.finding.text())
        self.assertIn(f"{none} to none", self.whole.finding.text())
        self.assertGreaterEqual(none, 5)
        self.desk.live.bring(None)
        settle()
        self.assertIsNone(self.view.plane.chart.ghosts)
        self.assertTrue(self.view.listing.kinds["all"].isChecked())
        self.assertFalse(self.view.listing.kinds["new"].isEnabled())
        self.assertNotIn("new (", self.whole.finding.text())

    def by_hand(self, saved, later):
        return project(saved, later).joint / saved.joint_limit.value

    def lists(self, later, ratios, inside):
        who, names = self.view.listing.table, self.view.found.names
        told = {who.item(row, 0).text(): [who.item(row, c).text() for c in (2, 3)] for row in range(40)}
        for row, name in enumerate(later.ids):
            mine = [names[place] for place in np.flatnonzero(inside[row])]
            words = f"{len(mine)} classes" if len(mine) > 1 else mine[0] if mine else "none"
            self.assertEqual(told[name], [words, names[ratios[row].argmin()]])
        first = [who.item(row, 2).text() for row in range(5)]
        self.assertEqual(set(first), {"none"})
        who.selectRow(0)
        self.assertEqual(self.look.picked, ())

    def draws(self, ratios):
        ghosts = self.view.plane.chart.ghosts
        self.assertEqual(ghosts.keys.tolist(), list(range(NEW, NEW + 40)))
        one, two = self.view.pair
        np.testing.assert_allclose(10**ghosts.x, ratios[:, one], rtol=1e-9)
        np.testing.assert_allclose(10**ghosts.y, ratios[:, two], rtol=1e-9)

    def test_labels_of_their_own_are_listed(self):
        later = self.later()
        kinds = ("a",) * 39 + ("",)
        self.bring(replace(later, classes=(ClassColumn("kind", kinds),)))
        labels = [self.view.listing.table.item(row, 1).text() for row in range(40)]
        self.assertEqual((labels.count("a"), labels.count("new")), (39, 1))

    def test_files_fall_on_the_plane_of_two_models_only(self):
        panel = self.view.plane_panel
        middle = panel.mapTo(self.whole, panel.rect().center())
        self.assertTrue(self.whole.takes_new_samples(middle))
        self.assertFalse(self.whole.takes_new_samples(QPoint(5, 5)))
        QTest.mouseClick(self.whole.modes["labelled"], LEFT)
        self.assertFalse(self.whole.takes_new_samples(middle))

    def test_new_samples_that_do_not_fit_are_said(self):
        self.desk.live.bring(self.later().take(np.arange(40), np.arange(6)))
        self.until(lambda: "lacks" in self.window.message.label.text())
        self.assertIsNone(self.view.new.shown)


if __name__ == "__main__":
    unittest.main()
