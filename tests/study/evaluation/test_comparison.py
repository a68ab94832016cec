"""Two models side by side: figures with errors, shapes, samples that only one has; and the words for them."""

import unittest
from dataclasses import replace

import numpy as np

from scutcher.charts.comparing.figures import is_no_contest, moved_rows, partner_words, told
from scutcher.charts.comparing.finding import finding
from scutcher.charts.comparing.planes import loadings_over, planes
from scutcher.charts.comparing.recipes import recipe_words
from scutcher.core.errors import ModelError
from scutcher.core.groups.class_separation import neighbour_accuracy
from scutcher.core.recipes.recipe import recipe_from_plain
from scutcher.demo.sets import demo_set
from scutcher.study.document.parts import Model
from scutcher.study.document.state import State
from scutcher.study.evaluation.checks import check
from scutcher.study.evaluation.comparison import compare
from scutcher.study.evaluation.comparison_figures import Figure
from scutcher.study.evaluation.comparison_sides import Side, with_shapes
from scutcher.study.evaluation.evaluator import Evaluator

SNV = {"treat": [{"method": "snv"}], "model": {"components": 5}}
MSC = {"treat": [{"method": "msc"}], "model": {"components": 4}}
EVALUATOR = Evaluator()


def side(table, plain, name="", checked=False, **use):
    table = replace(table, **use)
    found = EVALUATOR.evaluate(table, recipe_from_plain(plain))
    return with_shapes(
        Side(Model("m", name, "d", recipe=found.recipe), found, check(found) if checked else None)
    )


class OnLots(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.table = demo_set("intake-nir")[0].take(np.arange(60))
        cls.codes = cls.table.classes[0].codes()
        cls.a, cls.b = side(cls.table, SNV, "A", True), side(cls.table, MSC, "B", True)
        cls.both = compare(cls.a, cls.b, cls.codes)

    def test_a_model_and_itself_cannot_be_told_apart(self):
        same = compare(self.a, self.a, self.codes)
        self.assertAlmostEqual(same.turned.agreement, 1.0, 9)
        self.assertLess(same.turned.moved.max(), 1e-6)
        self.assertTrue(same.same_data)
        self.assertFalse({figure.verdict for figure in same.figures} & {"better", "worse"})
        self.assertEqual([(one.a, one.b) for one in same.pairs], [(k, k) for k in range(5)])

    def test_figures_are_those_of_each_model_alone(self):
        apart = self.both.figure("separation")
        groups = np.unique(np.asarray(self.table.replicates), return_inverse=True)[1]
        for value, one in ((apart.a, self.a), (apart.b, self.b)):
            rows = one.found.usable.rows
            alone = neighbour_accuracy(one.found.model.scores, self.codes[rows], groups[rows])
            self.assertAlmostEqual(value, alone, 9)
        self.assertEqual(self.both.figure("q2").a, self.a.validation.q2[4])
        self.assertGreater(self.both.figure("replicates").error, 0.0)

    def test_shares_of_other_data_are_no_contest(self):
        self.assertFalse(self.both.same_data)
        q2 = self.both.figure("q2")
        self.assertTrue(is_no_contest(q2, self.both.same_data))
        self.assertIn("no contest", told(q2, False))
        self.assertNotIn("Q²", "".join(words for words, _ in finding(self.both, range(60))))

    def test_recipes_in_words(self):
        words = recipe_words(self.both)
        self.assertIn("components 5 → 4", words.changed)
        self.assertEqual(words.only_a, ("SNV",))
        self.assertTrue(words.only_b[0].startswith("MSC") or "scatter" in words.only_b[0], words.only_b)

    def test_a_changed_setting_is_one_step(self):
        smooth = [{"method": "savitzky-golay", "window": window} for window in (15, 21)]
        sides = [side(self.table, {"treat": [step]}) for step in smooth]
        words = recipe_words(compare(*sides, self.codes))
        self.assertEqual(
            next(part for part in words.changed if "window" in part).split(": ")[1], "window 15 → 21"
        )
        self.assertFalse(words.only_a + words.only_b)

    def test_samples_that_only_one_has(self):
        fewer = side(self.table, SNV, "B", set_aside={3: "wet", 4: "wet"})
        both = compare(self.a, fewer, self.codes)
        self.assertEqual(len(both.rows_a), len(self.a.found.usable.rows) - 2)
        self.assertNotIn(3, both.rows_a)
        names = ", ".join(sorted(self.table.ids[row] for row in (3, 4)))
        self.assertIn(f"{names} set aside", recipe_words(both).only_b)
        self.assertEqual(both.figure("samples").b, both.figure("samples").a - 2)

    def test_other_tables_are_matched_by_name(self):
        rows = np.random.default_rng(1).permutation(60)[:40]
        other = side(self.table.take(rows), SNV, "B")
        both = compare(self.a, other, self.codes)
        names = [self.table.ids[row] for row in both.rows_a]
        self.assertEqual(names, [other.found.table.ids[row] for row in both.rows_b])
        self.assertGreater(both.turned.agreement, 0.98)

    def test_strangers_are_refused(self):
        strange = replace(self.table, ids=tuple(f"x{place}" for place in range(60)))
        with self.assertRaisesRegex(ModelError, "share only 0 samples"):
            compare(self.a, side(strange, SNV, "B"), self.codes)

    def test_planes_hold_what_was_turned(self):
        state = State.of("study", self.table)
        both = planes(state, self.both, (0, 1), (10,))
        np.testing.assert_allclose(both.a.marks.x, self.a.found.model.scores[:, 0])
        np.testing.assert_allclose(both.b.marks.y, self.both.turned.scores[:, 1])
        place = list(self.both.rows_a).index(10)
        np.testing.assert_allclose(both.a.curves[0].x[:2], [both.a.marks.x[place], both.b.marks.x[place]])
        self.assertEqual(both.a.ghosts.names, (self.table.ids[10],))

    def test_loadings_are_turned_as_scores_are(self):
        chart = loadings_over(self.both, 0)
        theirs = self.b.found.model.loadings @ self.both.turned.rotation[:, 0]
        np.testing.assert_allclose(chart.lines.ys[1], theirs)
        self.assertGreater(float(chart.lines.ys[0] @ chart.lines.ys[1]), 0.0)

    def test_one_component_stands_over_the_run_order(self):
        one = side(self.table, {"model": {"components": 1}}, "A")
        chart = planes(State.of("study", self.table), compare(one, self.b, self.codes), (0, 1), ()).a
        self.assertEqual(chart.x_title, "run order")

    def test_who_moved_comes_first(self):
        first = moved_rows(self.both)[0]
        self.assertEqual(first[0], int(self.both.turned.moved.argmax()))
        words = partner_words(self.both.pairs, (tuple("12345"), tuple("1234")))
        paired = [one for one in self.both.pairs if one.a is not None and one.b is not None]
        self.assertEqual(words.count("°"), len(paired))
        self.assertIn("without a partner: A ", words)


class OfShapes(unittest.TestCase):
    def test_two_and_three_shapes_of_the_same_spectra(self):
        table = demo_set("drying")[0]
        sides = [side(table, {"unmix": {"number": q}}, name) for q, name in ((2, "A"), (3, "B"))]
        both = compare(*sides, np.full(table.shape[0], -1))
        self.assertEqual((both.figure("shapes").a, both.figure("shapes").b), (2.0, 3.0))
        over = both.figure("left-over")
        self.assertGreater(over.a, over.b)
        self.assertEqual(over.verdict, "")  # more shapes always leave less
        whole = (sides[0].found.treated.values ** 2).sum()
        self.assertAlmostEqual(over.a, float((sides[0].mixture.residuals ** 2).sum() / whole), 12)
        self.assertEqual(len([one for one in both.shapes if one.a is not None]), 2)
        said = "".join(words for words, _ in finding(both, [-1] * table.shape[0]))
        self.assertRegex(said, r"A leaves .* over with 2 shapes, B leaves .* over with 3 shapes")


class Verdicts(unittest.TestCase):
    def test_only_beyond_twice_the_error(self):
        self.assertEqual(Figure("separation", 0.8, 0.9, 1, 0.04).verdict, "better")
        self.assertEqual(Figure("separation", 0.8, 0.9, 1, 0.06).verdict, "same")
        self.assertEqual(Figure("replicates", 0.3, 0.4, -1, 0.01).verdict, "worse")
        self.assertEqual(Figure("r2", 0.3, 0.4).verdict, "")
        self.assertEqual(Figure("q2", None, 0.4, 1, 0.01).verdict, "")
        self.assertEqual(Figure("q2", 0.3, 0.4, 1).verdict, "")

    def test_what_agrees_by_chance_is_said_to(self):
        table = demo_set("intake-nir")[0].take(np.arange(30))
        both = compare(side(table, SNV, "A"), side(table, MSC, "B"), np.full(30, -1))
        chance = replace(both, turned=replace(both.turned, agreement=0.1, by_chance=0.2))
        self.assertIn("chance", finding(chance, range(30))[0][0])

    def test_the_sentence_of_each_verdict(self):
        table = demo_set("intake-nir")[0].take(np.arange(30))
        both = compare(side(table, SNV, "A"), side(table, SNV, "B"), np.full(30, -1))
        self.assertEqual(_said(replace(both, figures=())), "No figure of A and B can be told apart.")
        better = (Figure("components", 5.0, 4.0), Figure("separation", 0.8, 0.8, 1, 0.02))
        self.assertEqual(
            _said(replace(both, figures=better)), "B keeps the classes as far apart with 1 component fewer."
        )
        worse = (Figure("q2", 0.8, 0.7, 1, 0.01), Figure("replicates", 0.3, 0.2, -1, 0.01))
        self.assertEqual(
            _said(replace(both, figures=worse)),
            "Replicates lie closer (0.20 for 0.30); "
            "left-out values are predicted less well (Q² 0.700 for 0.800).",
        )


def _said(both):
    return "".join(words for words, _ in finding(both, range(30)))


if __name__ == "__main__":
    unittest.main()
