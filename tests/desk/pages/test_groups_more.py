"""Groups without labels and one model per class on screen: cut, chosen, tagged, picked."""

import unittest
from dataclasses import replace
from unittest import mock

import numpy as np
from PySide6.QtCore import QPointF, Qt
from PySide6.QtTest import QTest

from scutcher.charts.class_models import accepted_square, powers_chart, who_belongs
from scutcher.charts.found_groups import group_name, number_run
from scutcher.core.data.columns import ClassColumn
from scutcher.core.groups.clusters import adjusted_rand
from scutcher.desk import context
from scutcher.desk.pages.groups import found
from scutcher.study.document.state import State
from scutcher.study.document.study import Study
from tests.core.validation.test_held_out_assignment import lots
from tests.desk.driving import LEFT, NO, QUICK, WindowCase, pixels, settle
from tests.study.test_class_models import drawn


class Found(WindowCase):
    first_page, validates = "Groups", True

    def study(self):
        table, self.codes = lots(n=90, apart=3.0)
        names = tuple("xyz"[code] for code in self.codes)
        return Study(State.of("lots", replace(table, classes=(ClassColumn("kind", names),)), QUICK))

    def setUp(self):
        super().setUp()
        self.whole = self.window.view("Groups")
        QTest.mouseClick(self.whole.modes["found"], LEFT)
        self.view = self.whole.found
        self.until(lambda: self.view.judged is not None)
        settle()

    def test_three_groups_are_found_and_agree_with_the_labels(self):
        judged = self.view.judged
        self.assertEqual((judged.by_gap, judged.by_silhouette, judged.by_stability), (3, 3, 3))
        labels = self.view.made.of_samples(self.view.clusters)
        self.assertEqual(adjusted_rand(labels, self.codes), 1.0)
        self.assertIn("agreement with kind 1.00", self.whole.finding.text())
        self.assertEqual(self.view.cross.rowCount(), 3)
        counts = [int(self.view.cross.item(0, column).text()) for column in range(1, 5)]
        self.assertEqual(counts[0], 30)
        self.assertEqual(sorted(counts[1:]), [0, 0, 10])
        self.assertEqual(len(self.view.plane.chart.areas), 3)
        means = self.view.means.chart.lines
        values = self.state.table.values
        np.testing.assert_allclose(
            means.ys[0], values[labels == 0].mean(axis=0) - values.mean(axis=0), atol=1e-12
        )
        self.cuts_the_tree_by_a_drag()
        self.shows_other_evidence()

    def cuts_the_tree_by_a_drag(self):
        tree = self.view.tree
        heights = tree.tree.heights
        y = tree.y_of(float((heights[-1] + heights[-2]) / 2))
        place = QPointF(200.0, y).toPoint()
        QTest.mousePress(tree, LEFT, NO, QPointF(200.0, tree.y_of(tree.cut_height())).toPoint())
        QTest.mouseMove(tree, place)
        QTest.mouseRelease(tree, LEFT, NO, place)
        settle()
        self.assertEqual((tree.count, len(self.view.clusters.centres)), (2, 2))
        self.assertEqual(self.view.cross.rowCount(), 2)

    def shows_other_evidence(self):
        for kind in ("silhouette", "gap", "stability"):
            QTest.mouseClick(self.view.kinds[kind], LEFT)
            run = number_run(self.view.made, self.view.judged, 2, self.view._column(), kind)
            self.assertEqual(len(run.lines[0].y), len(self.view.judged.gap))
        self.view.number.handle.setValue(4.5)
        self.view.number.handle.sigPositionChangeFinished.emit(self.view.number.handle)
        settle()
        self.assertEqual(len(self.view.clusters.centres), 4)

    def test_a_click_makes_a_class_column_and_groups_and_leaves_are_picked(self):
        ask = self.view.ask_column()
        ask._answer()
        settle()
        column = self.state.table.class_column("group")
        labels = self.view.made.of_samples(self.view.clusters)
        self.assertEqual(tuple(column.values), tuple(map(group_name, labels)))
        self.assertEqual(self.state.colour_by, "group")
        self.window.undo()
        settle()
        self.assertNotIn("group", [c.name for c in self.state.table.classes])
        self.view.cross.selectRow(0)
        settle()
        self.assertEqual(sorted(self.look.picked), np.flatnonzero(labels == 0).tolist())
        tree = self.view.tree
        place = QPointF(tree.x_of(0), tree.height() - 22.0)
        QTest.mouseClick(tree, LEFT, NO, place.toPoint())
        settle()
        self.assertEqual(len(self.look.picked), 3)

    def test_of_many_samples_tree_and_groups_come_from_behind(self):
        before = pixels(self.view.tree), self.view.clusters.labels
        with mock.patch.object(found, "AT_ONCE", 0):
            self.view.way_menu.choose("k-means")
            self.assertIsNone(self.view.clusters)
            self.assertIn("being looked for", self.whole.finding.text())
            self.assertIsNone(self.view.ask_column())
            self.until(lambda: self.view.clusters is not None)
            self.view.way_menu.choose("Ward's tree")
            self.until(lambda: self.view.clusters is not None and self.view.judged is not None)
            settle()
            np.testing.assert_array_equal(self.view.clusters.labels, before[1])
            np.testing.assert_array_equal(pixels(self.view.tree), before[0])

    def test_a_way_that_is_made_part_by_part_can_be_left_meanwhile(self):
        modes = self.whole.modes
        with mock.patch.object(context, "MUCH", 0):
            QTest.mouseClick(modes["models"], LEFT)
            self.assertEqual(self.whole.mode, "found")  # what is whole stays until then
            QTest.mouseClick(modes["found"], LEFT)
            settle(12)
            self.assertEqual((self.whole.mode, self.whole.way), ("found", self.view))
            QTest.mouseClick(modes["models"], LEFT)
            settle(12)
        self.assertEqual(self.whole.mode, "models")
        self.assertTrue(modes["models"].isChecked())
        self.until(lambda: self.whole.models.found is not None)
        self.assertTrue(self.whole.models.plane.isVisible())

    def test_k_means_and_scaled_scores(self):
        self.view.way_menu.choose("k-means")
        self.until(lambda: self.view.judged is not None)
        settle()
        self.assertEqual(adjusted_rand(self.view.made.of_samples(self.view.clusters), self.codes), 1.0)
        self.view.way_menu.choose("scores to unit variance")
        self.until(lambda: self.view.judged is not None)
        np.testing.assert_allclose(
            self.view.made.points[0] * np.sqrt(self.model.eigenvalues), self.model.scores[:3].mean(axis=0)
        )


class OnModels(WindowCase):
    """The models of three classes, made and shown."""

    first_page, validates = "Groups", True

    def study(self):
        table, self.codes = drawn()
        return Study(State.of("planes", table, QUICK))

    def setUp(self):
        super().setUp()
        self.whole = self.window.view("Groups")
        QTest.mouseClick(self.whole.modes["models"], LEFT)
        self.view = self.whole.models
        self.until(lambda: self.view.found is not None)
        settle()


class Modelled(OnModels):
    def test_who_is_accepted_by_which(self):
        found = self.view.found
        square = self.view.table.square
        inside = found.acceptance.inside
        for row in range(3):
            own = self.codes == found.models[row].code
            self.assertEqual(square.cells[row][row].figure, f"{inside[own, row].sum()} of {own.sum()}")
            self.assertEqual(sum(square.bars[row]), own.sum())
        one, several, none, other = found.acceptance.verdicts()
        text = self.whole.finding.text()
        for words in (f"{one} samples belong to one class", f"{several} to several", f"{none} to none"):
            self.assertIn(words, text)
        self.assertIn(f"{other} of the {one}", text)
        self.picks_what_a_cell_stands_for(found)
        self.lists_who_belongs_where(found)
        self.draws_two_models_against_each_other(found)

    def picks_what_a_cell_stands_for(self, found):
        table = self.view.table
        QTest.mouseClick(table, LEFT, NO, table.cell_rect(1, 1).center().toPoint())
        settle()
        own = (self.codes == found.models[1].code) & found.acceptance.inside[:, 1]
        self.assertEqual(sorted(self.look.picked), np.flatnonzero(own).tolist())
        QTest.mouseClick(table, LEFT, NO, table.cell_rect(2, 0).center().toPoint())
        settle()
        self.assertEqual(self.view.pair, (2, 0))
        self.until(lambda: found.knows_powers(2, 0) and self.view.powers_view.chart.lines is not None)
        self.assertIn("accepted by the model of", table.words_of(2, 0))
        QTest.mouseClick(self.view.switch, LEFT)
        self.assertTrue(table.square.cells[0][0].figure.endswith("%"))

    def lists_who_belongs_where(self, found):
        self.assertEqual(self.view.listing.table.rowCount(), 90)
        for kind, chosen in (
            ("none", found.acceptance.counts == 0),
            ("several", found.acceptance.counts > 1),
        ):
            QTest.mouseClick(self.view.listing.kinds[kind], LEFT)
            self.assertEqual(self.view.listing.table.rowCount(), int(chosen.sum()))
        lines = who_belongs(found, "none")
        self.assertEqual([f[4] for _, f in lines], sorted((f[4] for _, f in lines), reverse=True))
        QTest.mouseClick(self.view.listing.kinds["all"], LEFT)
        self.view.listing.table.selectRow(4)
        settle()
        self.assertEqual(self.look.picked, (4,))

    def draws_two_models_against_each_other(self, found):
        one, two = self.view.pair
        marks = self.view.plane.chart.marks
        np.testing.assert_allclose(10**marks.x, found.acceptance.ratios[:, one], rtol=1e-9)
        np.testing.assert_allclose(self.view.powers_view.chart.lines.ys[0], found.powers(one, two)[2])
        QTest.mouseClick(self.view.powers["modelling"], LEFT)
        self.assertEqual(self.view.powers_view.chart.lines.names, (found.names[one], found.names[two]))
        self.assertEqual(powers_chart(found, one, two, "modelling").y_title, "modelling power")

    def test_robust_limits_are_a_command(self):
        QTest.mouseClick(self.view.robust, LEFT)
        self.assertEqual(self.state.recipe.limits.joint, "robust")
        self.until(
            lambda: (
                self.view.found is not None and self.view.found.models[0].saved.held_out.method == "robust"
            )
        )
        self.assertEqual(len(accepted_square(self.view.found).cells), 3)


class Without(WindowCase):
    first_page, validates = "Groups", True

    def study(self):
        return Study(State.of("bare", lots(n=30)[0], QUICK))

    def test_no_classes(self):
        view = self.window.view("Groups")
        QTest.mouseClick(view.modes["models"], LEFT)
        settle()
        self.assertIn("Tag samples with a class", view.finding.text())
        QTest.mouseClick(view.modes["found"], LEFT)
        self.until(lambda: view.found.judged is not None)
        settle()
        self.assertGreaterEqual(view.found.cross.rowCount(), 1)
        self.assertEqual(view.finding.textFormat(), Qt.TextFormat.RichText)


if __name__ == "__main__":
    unittest.main()
