"""What the Treat page shows, as data: before and after, where classes differ, what a step did, ghosts."""

import unittest

import numpy as np

from scutcher.charts.treatment_effects import (
    AT_ONCE,
    FigureMemo,
    class_ratio,
    ghosts_of,
    inside_of,
    moved,
    stage_chart,
    step_effects,
    with_inside,
)
from scutcher.core.data.columns import ClassColumn
from scutcher.core.recipes.recipe import ModelSettings, Recipe, recipe_from_plain
from scutcher.study.document.state import State
from scutcher.study.evaluation.evaluator import Evaluator
from tests.core.making import ordered_table, random_spectra


def made(treat, n=24, classes=True, **more):
    """Two classes that differ in one band; a state and its evaluation."""
    x = random_spectra(n, 40)
    kinds = tuple("xy"[row % 2] for row in range(n))
    x[1::2, 10] += 0.4
    columns = (ClassColumn("kind", kinds),) if classes else ()
    table = ordered_table(x, classes=columns, **more)
    recipe = Recipe(treat=recipe_from_plain({"treat": treat}).treat, model=ModelSettings(components=2))
    state = State.of("t", table, recipe, "kind" if classes else "")
    return state, Evaluator().evaluate(table, recipe, lenient=True)


SNV = {"method": "snv"}
MSC = {"method": "msc"}


class Strips(unittest.TestCase):
    def test_before_and_after_each_step(self):
        state, found = made([SNV, {"method": "savitzky-golay", "window": 5}])
        for stage in (0, 1, 2):
            chart = stage_chart(state, found, stage, False, "After", "note")
            np.testing.assert_array_equal(chart.lines.ys, found.stages[stage].values)
        scaled = stage_chart(state, found, 3, False, "After", "")
        np.testing.assert_array_equal(scaled.lines.ys, found.z)
        self.assertEqual(scaled.y_title, "scaled value")
        self.assertIn("1st derivative", stage_chart(state, found, 2, False, "After", "").y_title)

    def test_class_means_and_their_spread(self):
        state, found = made([SNV])
        chart = stage_chart(state, found, 1, True, "After", "")
        values = found.stages[1].values
        self.assertEqual(chart.lines.names, ("x", "y"))
        for place in (0, 1):
            rows = values[place::2]
            np.testing.assert_allclose(chart.lines.ys[place], rows.mean(axis=0))
            np.testing.assert_allclose(
                chart.spreads[place].high - chart.spreads[place].low, 2.0 * rows.std(axis=0, ddof=1)
            )

    def test_where_classes_differ(self):
        state, found = made([SNV])
        chart = class_ratio(state, found, 0, before_too=True)
        ratio, earlier = chart.lines.ys[0], chart.curves[0].y
        for values, shown in ((found.stages[1].values, ratio), (found.stages[0].values, earlier)):
            column = values[:, 10]
            means = [column[place::2].mean() for place in (0, 1)]
            between = sum(12 * (mean - column.mean()) ** 2 for mean in means) / 1
            within = sum(((column[p::2] - means[p]) ** 2).sum() for p in (0, 1)) / 22
            self.assertAlmostEqual(shown[10] / (between / within), 1.0, places=9)
        self.assertEqual(int(ratio.argmax()), 10)

    def test_without_classes_it_says_what_to_do(self):
        state, found = made([SNV], classes=False)
        self.assertIn("Colour by a class", class_ratio(state, found, 0, False).empty)
        self.assertIn("first model", class_ratio(state, None, 0, False).empty)

    def test_the_inside_of_a_step_is_drawn_over_the_data_before_it(self):
        state, found = made([MSC])
        before = stage_chart(state, found, 0, False, "Before", "")
        drawn = with_inside(before, found, inside_of(found, 0), ())
        np.testing.assert_allclose(drawn.curves[0].y, found.stages[0].values.mean(axis=0))
        state, found = made([{"method": "baseline-polynomial"}])
        picked = with_inside(before, found, inside_of(found, 0), (5,))
        self.assertEqual(len(picked.curves), 1)
        np.testing.assert_allclose(
            picked.curves[0].y, (found.stages[0].values - found.stages[1].values)[5], atol=1e-10
        )

    def test_a_step_that_is_off_or_passed_over_has_no_inside(self):
        _, found = made([{**MSC, "on": False}, {"method": "savitzky-golay", "window": 99}])
        self.assertIsNone(inside_of(found, 0))
        self.assertIn(1, found.passed_over)
        self.assertIsNone(inside_of(found, 1))
        self.assertIsNone(inside_of(found, 2))


class Effects(unittest.TestCase):
    def test_figures_before_and_after_and_only_those_there_are(self):
        state, found = made([SNV])
        by_key = {effect.key: effect for effect in step_effects(state, found, 0, (0.5, 0.8), FigureMemo())}
        self.assertEqual(set(by_key), {"separation", "noise", "q2"})  # there are no replicates
        self.assertEqual((by_key["q2"].before, by_key["q2"].after), (0.5, 0.8))
        self.assertEqual(by_key["separation"].chance, 0.5)
        state, found = made([SNV], classes=False, replicates=tuple(str(row // 2) for row in range(24)))
        by_key = {effect.key: effect for effect in step_effects(state, found, 0, (None, None), FigureMemo())}
        self.assertEqual(set(by_key), {"replicates", "noise"})
        values, rows = found.stages[1].values, np.arange(24)
        within = sum(((values[pair] - values[pair].mean(axis=0)) ** 2).sum() for pair in rows.reshape(12, 2))
        total = ((values - values.mean(axis=0)) ** 2).sum()
        self.assertAlmostEqual(by_key["replicates"].after, np.sqrt(within / 12 / (total / 23)))

    def test_figures_are_kept_for_the_same_values(self):
        _, found = made([SNV])
        memo = FigureMemo()
        codes = np.zeros(24, dtype=int)
        first = memo.of(found.table, found.stages[0].values, codes)
        self.assertIs(memo.of(found.table, found.stages[0].values, codes), first)
        self.assertIsNot(memo.of(found.table, found.stages[0].values.copy(), codes), first)

    def test_of_much_data_only_behind(self):
        n = int(np.sqrt(AT_ONCE / 40)) + 1
        table = ordered_table(np.random.default_rng(0).normal(size=(n, 40)))
        memo, codes = FigureMemo(), np.full(n, -1)
        self.assertEqual(memo.of(table, table.values, codes), {})
        behind = memo.of(table, table.values, codes, behind=True)
        self.assertAlmostEqual(behind["noise"], 1.0, delta=0.05)  # it is nothing but noise
        self.assertIs(memo.of(table, table.values, codes), behind)


class Ghosts(unittest.TestCase):
    def test_a_model_of_other_data_has_none(self):
        state, found = made([SNV])
        self.assertIsNone(ghosts_of(state, found, made([SNV], 40)[1], (0, 1)))

    def test_turned_and_stretched_onto_the_plane_of_now(self):
        state, found = made([SNV])
        table = found.table
        mirrored = Evaluator().evaluate(table, found.recipe)
        scores = mirrored.decomposition.scores
        scores[:, 0] *= -3.0
        ghosts = ghosts_of(state, found, mirrored, (0, 1))
        np.testing.assert_allclose(ghosts.x, found.model.scores[:, 0], atol=1e-10)
        np.testing.assert_allclose(ghosts.y, found.model.scores[:, 1], atol=1e-10)
        lines = moved(state, found, mirrored, (0, 1))
        self.assertEqual(len(lines.x), 3 * 24)
        self.assertEqual(np.isnan(lines.x).sum(), 24)

    def test_only_samples_that_both_have_and_components_that_the_other_has(self):
        state, found = made([SNV])
        _, fewer = made([SNV], set_aside={3: "wet"})
        self.assertEqual(len(ghosts_of(state, found, fewer, (0, 1)).x), 23)
        self.assertEqual(np.isnan(moved(state, found, fewer, (0, 1)).x).sum(), 23)
        self.assertIsNone(ghosts_of(state, found, fewer, (0, 2)))
        self.assertIsNone(moved(state, found, fewer, (1, 2)))


if __name__ == "__main__":
    unittest.main()
