"""Practice by hand: each exercise begun, done wrongly, done rightly, and looked at."""

import unittest

from PySide6.QtTest import QTest

from scutcher.core.recipes.recipe import ValidateSettings
from scutcher.desk.actions.exercise_list import EXERCISES
from scutcher.study.document.commands.recipe import KeepComponents, ValidateBy
from scutcher.study.document.commands.samples import SetAside
from scutcher.study.document.study import Study
from tests.desk.driving import LEFT, WindowCase, settle


class Exercises(WindowCase):
    def study(self):
        return Study()

    def begin(self, key):
        paper = self.window.papers.practise()
        settle()
        self.assertFalse(paper.check[key].isEnabled())
        QTest.mouseClick(paper.begin[key], LEFT)
        self.until(lambda: self.desk.moment.found is not None)
        settle()

    def looked_at(self, key):
        paper = self.window.papers.practise()
        settle()
        QTest.mouseClick(paper.check[key], LEFT)
        settle()
        verdict, said = paper.verdict, paper.said.text()
        paper.dismiss()
        settle()
        self.assertEqual(said, verdict.words)
        return verdict

    def test_the_wet_lot(self):
        self.begin("wet")
        self.assertIn("Nothing is picked", self.looked_at("wet").words)
        self.desk.selection.pick([self.row("L30-1")])
        self.assertIn("not wet", self.looked_at("wet").words)
        self.desk.selection.pick([self.row("L17-1")])
        self.assertIn("not all of it", self.looked_at("wet").words)
        rows = [self.row(f"L17-{scan}") for scan in (1, 2, 3)]
        self.desk.selection.pick([*rows, self.row("L30-1")])
        self.assertIn("others are too", self.looked_at("wet").words)
        self.desk.selection.pick(rows)
        self.assertTrue(self.looked_at("wet").solved)
        self.desk.do(SetAside(tuple(rows), "wet"))
        self.desk.selection.pick([])
        self.assertTrue(self.looked_at("wet").solved)

    def test_how_many(self):
        self.begin("rank")
        self.assertIn("Not 6: fewer", self.looked_at("rank").words)
        self.desk.do(KeepComponents(2))
        self.assertIn("Not 2: more", self.looked_at("rank").words)
        self.desk.do(KeepComponents(3))
        self.assertTrue(self.looked_at("rank").solved)

    def test_the_leak(self):
        self.begin("leak")
        self.assertIsNone(self.state.table.replicates)
        self.assertIn("still on both sides", self.looked_at("leak").words)
        self.desk.do(ValidateBy(ValidateSettings(scheme="class", column="field")))
        self.assertIn("says nothing of the lots", self.looked_at("leak").words)
        self.desk.do(ValidateBy(ValidateSettings(scheme="class", column="lot")))
        self.assertTrue(self.looked_at("leak").solved)

    def test_the_leak_can_be_seen(self):
        """What is left out alone looks better predicted than it is."""
        from scutcher.study.evaluation.checks import held_out
        from scutcher.study.evaluation.evaluator import Evaluator

        table, recipe = next(one for one in EXERCISES if one.key == "leak").begin()
        ways = []
        for settings in (recipe.validate, ValidateSettings(scheme="class", column="lot")):
            changed = type(recipe)(treat=recipe.treat, model=recipe.model, validate=settings)
            found = Evaluator(keeps=False).evaluate(table, changed)
            ways.append(held_out(found)[0].q2[found.model.k - 1])
        self.assertGreater(ways[0], ways[1])


if __name__ == "__main__":
    unittest.main()
