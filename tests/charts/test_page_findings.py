"""The sentence of each page: what it may claim and what not, on data whose answer is known."""

import unittest
from dataclasses import replace
from types import SimpleNamespace

import numpy as np
from scipy.stats import binom

from scutcher.charts.class_models import models_finding
from scutcher.charts.new_on_classes import new_words
from scutcher.charts.page_findings import inspect, rank, samples, treat
from scutcher.charts.page_findings.chance import more_than_due, told_apart
from scutcher.core.data.findings import findings
from scutcher.core.recipes.recipe import recipe_from_plain
from scutcher.core.validation.evidence import Line
from scutcher.demo.sets import demo_set
from scutcher.study.evaluation.checks import Checked, check
from scutcher.study.evaluation.evaluator import Evaluator
from scutcher.study.evaluation.step_effects import Effect


def said(pieces):
    return "".join(words for words, _ in pieces)


class Chance(unittest.TestCase):
    def test_the_binomial_tail(self):
        for count, of, share in ((7, 143, 0.05), (14, 143, 0.05), (16, 143, 0.05), (1, 3, 0.3), (0, 9, 0.1)):
            self.assertEqual(
                more_than_due(count, of, share), count > 0 and binom.sf(count - 1, of, share) < 0.01
            )

    def test_shares_of_few_groups_are_not_told_apart(self):
        self.assertFalse(told_apart(0.5, 0.7, 20))
        self.assertTrue(told_apart(0.5, 0.7, 200))


class Samples(unittest.TestCase):
    def test_what_calls_for_something_is_said_and_the_rest_counted(self):
        table = demo_set("intake-nir")[0]
        words = samples.finding(table, "retting", findings(table))
        self.assertTrue(said(words).startswith("144 samples of 4 classes, 700 channels"))
        gap = next(row for row in range(144) if np.isnan(table.values[row]).any())
        self.assertIn((gap,), [rows for _, rows in words])
        self.assertIn(f"({table.ids[gap]})", said(words))

    def test_clean_data_are_said_to_be(self):
        table = demo_set("intake-nir")[0].take(np.arange(5))
        words = said(samples.finding(table, "", ()))
        self.assertEqual(words, "5 samples, 700 channels; nothing missing, constant or repeated.")

    def test_who_is_not_in_the_model_can_be_clicked(self):
        table = replace(demo_set("bench")[0], set_aside={2: "wet", 5: "wet"})
        words = samples.finding(table, "", findings(table))
        self.assertIn(("2 not in the model", (2, 5)), words)
        self.assertIn("variables", said(words))


class Treat(unittest.TestCase):
    def test_better_only_beyond_chance(self):
        apart = Effect("separation", 0.45, 0.85, 1)
        self.assertIn("it moves classes apart (0.45 → 0.85", said(treat.finding("SNV", [apart], 48, False)))
        near = Effect("separation", 0.80, 0.85, 1)
        self.assertIn("classes stay as far apart", said(treat.finding("SNV", [near], 48, False)))
        worse = Effect("separation", 0.85, 0.45, 1)
        self.assertIn("it brings classes together", said(treat.finding("SNV", [worse], 48, False)))

    def test_replicates_noise_and_what_was_held_out(self):
        shown = [
            Effect("replicates", 0.4, 0.3, -1),
            Effect("noise", 0.01, 0.2, -1),
            Effect("q2", 0.9, -0.1, 1),
        ]
        words = said(treat.finding("Derivative", shown, 9, False))
        self.assertIn("replicates lie closer (0.40 → 0.30", words)
        self.assertIn("the share of noise grows (0.01 → 0.20", words)
        self.assertIn("Q² 0.900 without it, −0.100 with it", words)
        self.assertNotIn("better", words)

    def test_nothing_known_claims_nothing(self):
        self.assertIn("nothing tells whether it helps", said(treat.finding("SNV", [], 9, False)))
        self.assertIn("being computed", said(treat.finding("SNV", [], 9, True)))
        self.assertIn("add a treatment", said(treat.of_ends(True, 0)))


class OnLots(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        cls.table = demo_set("intake-nir")[0]
        recipe = recipe_from_plain({"treat": [{"method": "snv"}], "model": {"components": 4}})
        cls.found = Evaluator().evaluate(cls.table, recipe)
        cls.codes = cls.table.classes[0].codes()[cls.found.usable.rows]

    def test_the_planted_lots_are_named_and_picked(self):
        pieces = inspect.finding(self.found, self.codes, (0, 1))
        named = {self.table.ids[row] for _, rows in pieces for row in rows}
        self.assertTrue({"L30-1", "L30-2", "L30-3", "L17-1", "L42-3"} <= named)
        self.assertIn("Components 1 and 2 hold ", said(pieces))
        strangers = next(rows for words, rows in pieces if words.endswith("do not"))
        self.assertFalse(set(strangers) - set(self.found.usable.rows.tolist()))

    def test_drawn_classes_do_not_lie_apart(self):
        drawn = np.random.default_rng(3).permutation(np.repeat(np.arange(4), 36))[self.found.usable.rows]
        self.assertIn("classes do not lie apart", said(inspect.finding(self.found, drawn, (0, 1))))

    def test_without_classes_nothing_is_said_of_them(self):
        words = said(inspect.finding(self.found, np.full(len(self.codes), -1), (2, 2)))
        self.assertTrue(words.startswith("Component 3 holds"))
        self.assertNotIn("class", words)

    def test_as_many_as_are_due_is_no_news(self):
        rng = np.random.default_rng(2)
        plain = replace(
            self.table, values=rng.normal(size=self.table.values.shape), left_out={}, set_aside={}
        )
        found = Evaluator().evaluate(plain, recipe_from_plain({"model": {"components": 2}}))
        words = said(inspect.finding(found, np.full(144, -1), (0, 1)))
        self.assertIn("no more samples are past the limits than are due", words)


class Rank(unittest.TestCase):
    @classmethod
    def setUpClass(cls):
        table, truth = demo_set("practice")
        cls.table, cls.truth = table, truth

    def of(self, k):
        few = {"permutations": 19, "halves": 1}
        recipe = recipe_from_plain({"model": {"components": k}, "evidence": few, "validate": {"segments": 4}})
        found = Evaluator().evaluate(self.table, recipe)
        return found, check(found)

    def test_where_the_lines_lie(self):
        found, checked = self.of(2)
        numbers = [line.suggested for line in checked.lines.values() if line.suggested is not None]
        words = said(rank.finding(found, checked))
        self.assertEqual(set(numbers), {3})
        self.assertIn(f"{len(numbers)} lines of evidence so far suggest 3;", words)
        wide = {str(place): Line(str(place), number) for place, number in enumerate((1, 3, 4, 4, 9))}
        spread = said(rank.finding(found, Checked(None, "", wide, checked.components)))
        self.assertIn("suggest 1 to 9, the middle half 3 to 4", spread)
        self.assertIn("2 components are kept", words)

    def test_fewer_or_more_by_the_standard_error(self):
        found, checked = self.of(6)
        fewest = checked.lines["one-standard-error"].suggested
        self.assertLess(fewest, 6)
        self.assertIn(f"{fewest} predict as well", said(rank.finding(found, checked)))
        found, checked = self.of(1)
        self.assertIn(f"{fewest} components predict more", said(rank.finding(found, checked)))
        found, checked = self.of(fewest)
        self.assertIn("than one standard error", said(rank.finding(found, checked)))

    def test_before_and_without_validation(self):
        found, checked = self.of(2)
        self.assertIn("is being computed", said(rank.finding(found, None)))
        lines = {"share": Line("share", 3), "press": Line("press", None, "not validated")}
        bare = Checked(None, "", lines, checked.components)
        words = said(rank.finding(found, bare))
        self.assertIn("1 line of evidence so far suggests 3; 2 components are kept.", words)


class OfManySamples(unittest.TestCase):
    def test_thousands_are_grouped_where_classes_accept_samples(self):
        counts = np.repeat([1, 2, 0], [49, 5757, 1194])
        inside = np.tile([True, False], (len(counts), 1))
        acceptance = SimpleNamespace(
            counts=counts,
            known=counts >= 0,
            codes=np.zeros(len(counts), dtype=int),
            inside=inside,
            verdicts=lambda: (1049, 5757, 1194, 1002),
        )
        words = said(models_finding(SimpleNamespace(acceptance=acceptance), np.arange(len(counts))))
        wanted = "1,049 samples belong to one class, 5,757 to several, 1,194 to none; 1,002 of the 1,049 to "
        self.assertTrue(words.startswith(wanted), words)
        table = SimpleNamespace(ids=range(8000), name="late")
        new = SimpleNamespace(acceptance=acceptance, table=table, refused=range(1200))
        self.assertIn("1,049 of 8,000 to one, 5,757 to several, 1,194 to none, 1,200 not", new_words(new))


if __name__ == "__main__":
    unittest.main()
