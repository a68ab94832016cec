"""Two models side by side in the window: one pick in both, figures, recipes, swapped and taken."""

import unittest

import numpy as np
from PySide6.QtCore import Qt
from PySide6.QtTest import QTest

from scutcher.charts import colours
from scutcher.core.recipes.recipe import recipe_from_plain
from scutcher.desk.pages.compare.page import ComparePage
from scutcher.study.document.commands.recipe import UseRecipe
from scutcher.study.document.commands.shelf import RemoveModel
from tests.desk.driving import CTRL, LEFT, WindowCase, count_colour, settle

FEW = {"evidence": {"permutations": 19, "halves": 1}, "validate": {"segments": 4}}
A = {"treat": [{"method": "snv"}], "model": {"components": 5}, **FEW}
B = {"treat": [{"method": "msc"}], "model": {"components": 4}, **FEW}


class Compare(WindowCase):
    """The recipe of now is B; A was put by before it was validated."""

    def setUp(self):
        super().setUp()
        for plain, name in ((A, "first"), (B, "second")):
            self.desk.do(UseRecipe(recipe_from_plain(plain), name))
            self.until(
                lambda plain=plain: not self.desk.live.busy and self.model.k == plain["model"]["components"]
            )
            if name == "first":
                self.window.trail.shelf.put()
        self.assertIsNone(self.state.shelf[0].figure("q2"))

    def beside(self):
        self.key(Qt.Key.Key_B, CTRL)
        page = self.window.stack.over
        self.assertIsInstance(page, ComparePage)
        self.until(lambda: page.work.compared is not None)
        return page

    def test_one_pick_in_both_and_the_other_way(self):
        page = self.beside()
        a, b = page.views
        self.assertEqual(len(a.chart.marks.x), len(b.chart.marks.x))
        row = int(a.chart.marks.keys[20])
        self.click(a, self.mark_place(a, row))
        picked = self.look.picked
        self.assertEqual(len(picked), 1)
        for view in page.views:
            self.assertEqual(list(view.chart.ghosts.keys), list(picked))
        page.moved.table.choose_row(3)
        settle()
        name = page.moved.table.cell(3, 0).text()
        self.assertEqual([self.state.table.ids[row] for row in self.look.picked], [name])
        self.assertGreater(count_colour(page.strips[0], colours.OCHRE), 40)
        self.assertGreater(count_colour(page.strips[0], colours.ACCENT), 40)

    def test_what_was_never_validated_is_validated_here(self):
        page = self.beside()
        self.until(lambda: not page.work.checking and page.work.compared.figure("q2") is not None)
        settle()
        q2 = page.work.compared.figure("q2")
        self.assertTrue(np.isfinite([q2.a, q2.b, q2.error]).all())
        rows = [page.figures.table.cell(row, 0).text() for row in range(page.figures.table.rowCount())]
        self.assertEqual(
            rows, ["components", "R²", "Q²", "classes apart", "replicate spread", "within both limits"]
        )
        self.assertIn("no contest", page.figures.table.cell(2, 3).toolTip())
        self.assertIn("classes", page.finding.text())

    def test_swapped_and_taken(self):
        page = self.beside()
        now, shelved = page.chosen
        QTest.keyClick(page, Qt.Key.Key_X)
        self.assertEqual(page.chosen, [shelved, now])
        self.until(lambda: page.work.compared is not None)
        self.assertEqual(page.work.compared.a.found.model.k, 5)
        settle()
        a, b = page.recipes.buttons
        self.assertFalse(b.isEnabled())
        QTest.mouseClick(a, LEFT)
        settle()
        self.assertIsNone(self.window.stack.over)
        self.assertEqual(self.state.recipe.treat[0].method, "snv")

    def test_the_same_model_is_never_on_both_sides(self):
        page = self.beside()
        before = list(page.chosen)
        page.choosers[0].activated.emit(1)
        self.assertEqual(page.chosen, before[::-1])

    def test_it_closes_with_its_models_and_with_escape(self):
        page = self.beside()
        self.desk.do(RemoveModel(self.state.shelf[0].id))
        settle()
        self.assertIsNone(self.window.stack.over)
        self.key(Qt.Key.Key_B, CTRL)
        self.assertIsNone(self.window.stack.over)  # there is only one model: that is said
        self.assertIn("only one model", self.window.message.label.text())
        self.desk.say(None)
        self.desk.study.undo()
        settle()
        page = self.beside()
        self.key(Qt.Key.Key_Escape)
        self.assertIsNone(self.window.stack.over)
        self.assertIsNone(page.work._wanted)

    def test_from_the_table_of_all_models(self):
        table = self.window.papers.compare()
        table.table.choose_row(0)
        QTest.mouseClick(table.beside, LEFT)
        settle()
        page = self.window.stack.over
        self.assertEqual(page.chosen, [self.state.current, self.state.shelf[0].id])


if __name__ == "__main__":
    unittest.main()
