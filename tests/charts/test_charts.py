"""What the charts show, as data: no window needed."""

import unittest
from dataclasses import replace

import numpy as np

from scutcher.charts.distances import distances, run_order
from scutcher.charts.emphasis import FADED, FRONT, HIDDEN, PLAIN, emphasis
from scutcher.charts.ladder import ladder
from scutcher.charts.loadings import loadings
from scutcher.charts.residuals import leftover
from scutcher.charts.scores import scores
from scutcher.charts.signals import signals, stage_of
from scutcher.core.recipes.recipe import ModelSettings, Recipe, Step
from scutcher.core.treatments.snv import SnvParameters
from scutcher.study.document.state import State
from scutcher.study.evaluation.evaluator import Evaluator
from scutcher.study.selection import Look
from tests.core.making import classes_of, mixed_table, ordered_table, random_spectra


class Charts(unittest.TestCase):
    def setUp(self):
        table = ordered_table(
            random_spectra(20, 15), classes=(classes_of(20),), set_aside={4: "wet"}, left_out={2: "dead"}
        )
        recipe = Recipe(treat=(Step("snv", SnvParameters()),), model=ModelSettings(components=3))
        self.found = Evaluator().evaluate(table, recipe)
        self.state = State.of("t", table, recipe, "kind")

    def test_signals_at_each_knot(self):
        raw = signals(self.state, self.found, 0, means=False)
        self.assertEqual(raw.lines.ys.shape, (19, 15))
        self.assertEqual(raw.note, "as brought in")
        treated = signals(self.state, self.found, 1, means=False)
        self.assertEqual(treated.lines.ys.shape, (19, 14))
        np.testing.assert_allclose(treated.lines.ys.mean(axis=1), 0.0, atol=1e-12)
        self.assertEqual(treated.note, "after SNV")
        centred = signals(self.state, self.found, 2, means=False)
        np.testing.assert_allclose(centred.lines.ys.mean(axis=0), 0.0, atol=1e-12)
        self.assertEqual(stage_of(None, self.found), 1)
        self.assertEqual(stage_of(9, self.found), 2)

    def test_signals_as_brought_in_are_not_copied_where_the_model_has_them(self):
        gaps = random_spectra(20, 15)
        gaps[7, 3] = np.nan
        for table, kept in (
            (ordered_table(random_spectra(20, 15), set_aside={4: "wet"}), True),
            (ordered_table(random_spectra(20, 15), set_aside={4: "wet"}, left_out={2: "dead"}), False),
            (ordered_table(gaps, set_aside={4: "wet"}), False),
        ):
            for policy in ("leave-out-samples", "fill-mean"):
                recipe = Recipe(model=ModelSettings(components=3, gaps=policy))
                found, state = Evaluator().evaluate(table, recipe), State.of("t", table, recipe)
                shown = signals(state, found, 0, means=False).lines
                np.testing.assert_array_equal(shown.ys, table.values[table.used_rows()])
                np.testing.assert_array_equal(shown.keys, table.used_rows())
                self.assertEqual(np.shares_memory(shown.ys, found.part.values), kept)
                later = State.of("t", replace(table, set_aside={}), recipe)
                np.testing.assert_array_equal(
                    signals(later, found, 0, means=False).lines.ys, later.table.values
                )

    def test_means_of_classes_pass_over_gaps(self):
        values = random_spectra(6, 5)
        values[0, 1] = np.nan
        values[[0, 2, 4], 3] = np.nan
        state = State.of("t", ordered_table(values, classes=(classes_of(6),)), Recipe(), "kind")
        lines = signals(state, None, 0, means=True).lines
        self.assertEqual(lines.names, ("x", "y"))
        self.assertAlmostEqual(lines.ys[0, 1], values[[2, 4], 1].mean())
        self.assertTrue(np.isnan(lines.ys[0, 3]))

    def test_spread_of_a_class_by_hand(self):
        chart = signals(self.state, self.found, 0, means=True)
        rows = [row for row in range(0, 20, 2) if row != 4]
        values = self.state.table.values[rows]
        np.testing.assert_allclose(chart.spreads[0].high, values.mean(axis=0) + values.std(axis=0, ddof=1))
        np.testing.assert_allclose(chart.spreads[0].low, values.mean(axis=0) - values.std(axis=0, ddof=1))

    def test_marks_carry_rows_of_the_table(self):
        marks = scores(self.state, self.found, (0, 1)).marks
        self.assertNotIn(4, marks.keys)
        self.assertEqual(marks.names[4], "s6")
        np.testing.assert_array_equal(marks.codes, [row % 2 for row in range(20) if row != 4])

    def test_distances_are_over_their_limits(self):
        chart = distances(self.state, self.found, log=False)
        np.testing.assert_allclose(chart.marks.y, self.found.model.q / self.found.model.q_limit.value)
        self.assertEqual([rule.at for rule in chart.rules], [1.0, 1.0])
        logs = distances(self.state, self.found, log=True)
        np.testing.assert_allclose(logs.marks.x, np.log10(chart.marks.x))
        self.assertEqual([rule.at for rule in logs.rules], [0.0, 0.0])

    def test_run_order_counts_from_one_in_table_order(self):
        chart = run_order(self.state, self.found, "t2")
        self.assertEqual(chart.marks.x[0], 1.0)
        self.assertEqual(chart.marks.x[-1], 20.0)

    def test_without_a_limit_the_title_says_so(self):
        recipe = replace_components(self.state.recipe, 13)
        found = Evaluator().evaluate(self.state.table, recipe)
        chart = run_order(self.state, found, "q")
        self.assertEqual((chart.note, chart.y_title, chart.rules), ("no limit", "Q (no limit)", ()))

    def test_leftover_of_the_picked(self):
        chart = leftover(self.state, self.found, (7,), "residual")
        place = self.found.places()[7]
        expected = self.found.z[place] - self.found.model.reconstruction()[place]
        np.testing.assert_allclose(chart.lines.ys[0], expected, atol=1e-12)
        every = self.found.z - self.found.model.reconstruction()
        np.testing.assert_allclose(chart.ribbon.low, np.quantile(every, 0.025, axis=0), atol=1e-12)
        np.testing.assert_allclose(chart.ribbon.high, np.quantile(every, 0.975, axis=0), atol=1e-12)
        of_q = leftover(self.state, self.found, (8,), "q").ribbon
        np.testing.assert_allclose(
            of_q.high, np.quantile(np.sign(every) * every**2, 0.975, axis=0), atol=1e-12
        )
        aside = leftover(self.state, self.found, (4,), "residual")
        self.assertEqual(aside.empty, "the picked samples are not in the model")
        many = leftover(self.state, self.found, tuple(range(5, 15)), "residual")
        self.assertEqual(many.lines.names, ("mean of 10",))
        self.assertEqual(many.title, "Residuals of 10 samples")

    def test_loadings_of_mixed_variables_are_bars_with_names(self):
        table = mixed_table(random_spectra(9, 4))
        chart = loadings(Evaluator().evaluate(table, Recipe()), (0, 1))
        self.assertTrue(chart.bars)
        self.assertEqual(chart.tick_names, ("a", "b", "c", "d"))

    def test_ladder(self):
        found = ladder(self.found)
        self.assertEqual((found.kept, len(found.fitted)), (3, 10))
        self.assertTrue((np.diff(found.fitted) >= 0).all())
        self.assertIn("Q² not validated yet", found.text)

    def test_numbers_behind(self):
        header, rows = scores(self.state, self.found, (0, 1)).numbers()
        self.assertEqual(header[0], "name")
        self.assertEqual(rows[0][0], "s1")
        self.assertEqual(rows[0][1], self.found.model.scores[0, 0])
        header, rows = loadings(self.found, (0, 2)).numbers()
        self.assertEqual(header, ["wavelength / nm", "component 1", "component 3"])
        self.assertEqual(rows[1], [1002.0, *self.found.model.loadings[1, [0, 2]]])


def replace_components(recipe, k):
    from msgspec.structs import replace as changed

    return changed(recipe, model=ModelSettings(components=k))


class Emphasis(unittest.TestCase):
    KEYS, CODES, LEVELS = np.array([0, 1, 2, 3]), np.array([0, 1, 0, -1]), ("a", "b")

    def strength(self, **look):
        return emphasis(self.KEYS, self.CODES, replace(Look(), **look), self.LEVELS).tolist()

    def test_rules(self):
        self.assertEqual(self.strength(), [PLAIN] * 4)
        self.assertEqual(self.strength(picked=(2,)), [FADED, FADED, FRONT, FADED])
        self.assertEqual(self.strength(focus="a"), [PLAIN, FADED, PLAIN, FADED])
        self.assertEqual(self.strength(focus="a", alone=True), [PLAIN, HIDDEN, PLAIN, HIDDEN])
        self.assertEqual(self.strength(focus="b", picked=(2,)), [FADED, FADED, FRONT, FADED])
        self.assertEqual(self.strength(focus="b", alone=True, picked=(2,)), [HIDDEN, FADED, HIDDEN, HIDDEN])
        self.assertEqual(self.strength(focus="gone"), [PLAIN] * 4)
