"""What the strips and planes of Inspect show, as data: rebuilt, extremes, probe, one channel, loadings."""

import unittest
from dataclasses import replace
from unittest import mock

import numpy as np

from scutcher.charts import variables
from scutcher.charts.loading_plane import correlations, loading_plane, loading_rows
from scutcher.charts.rebuilds import component_steps, rebuild_grid, value_range
from scutcher.charts.sample_views import channel_run, extremes, is_far, probe, rebuilt, unscaled
from scutcher.charts.space import grid_axes, landscapes, pairs
from scutcher.charts.variables import correlation_picture, sample_picture, scatter
from scutcher.core.data.axis import Axis
from scutcher.core.data.table import Table
from scutcher.core.recipes.recipe import ModelSettings, Recipe, ScaleSettings
from scutcher.study.document.state import State
from scutcher.study.evaluation.evaluator import Evaluator
from tests.core.making import classes_of, mixed_table, ordered_table, random_spectra


def modelled(table, k=3, **more):
    recipe = Recipe(model=ModelSettings(components=k), **more)
    return State.of("t", table, recipe, "kind"), Evaluator().evaluate(table, recipe)


class Spectra(unittest.TestCase):
    def setUp(self):
        x = random_spectra(24, 18)
        self.table = ordered_table(x, classes=(classes_of(24),), set_aside={4: "wet"}, left_out={2: "dead"})
        self.state, self.found = modelled(self.table)
        self.kept = np.delete(np.delete(x, 4, axis=0), 2, axis=1)
        centred = self.kept - self.kept.mean(axis=0)
        left, sizes, right = np.linalg.svd(centred, full_matrices=False)
        self.scores, self.loadings = left[:, :3] * sizes[:3], right[:3].T
        self.signs = np.sign((self.loadings * self.found.model.loadings).sum(axis=0))

    def test_scaled_back_is_the_treated_signal(self):
        np.testing.assert_allclose(unscaled(self.found, self.found.z), self.kept, atol=1e-12)

    def test_a_sample_rebuilt_by_the_components(self):
        chart = rebuilt(self.state, self.found, (7,))
        place = 6  # row 4 is set aside
        fitted = self.kept.mean(axis=0) + self.scores[place] @ self.loadings.T
        measured, shown, difference = chart.lines.ys
        np.testing.assert_allclose(measured, self.kept[place], atol=1e-12)
        np.testing.assert_allclose(shown, fitted, atol=1e-9)
        np.testing.assert_allclose(difference, self.kept[place] - fitted, atol=1e-9)
        centred = self.kept[place] - self.kept.mean(axis=0)
        share = 1.0 - ((self.kept[place] - fitted) ** 2).sum() / (centred**2).sum()
        self.assertEqual(chart.note, f"s8: 3 components rebuild {100 * share:.1f} % of it")

    def test_nothing_to_rebuild_says_what_to_do(self):
        self.assertIn("Pick a sample", rebuilt(self.state, self.found, ()).empty)
        self.assertIn("Pick a sample", rebuilt(self.state, self.found, (4,)).empty)  # not in the model
        for chart in (rebuilt, extremes):
            self.assertIn("first model", chart(self.state, None, ()).empty)

    def test_the_ends_of_a_component(self):
        chart = extremes(self.state, self.found, 1)
        scores = self.scores[:, 1] * self.signs[1]
        np.testing.assert_allclose(chart.lines.ys, self.kept[[scores.argmin(), scores.argmax()]], atol=1e-12)
        spread = 2.0 * scores.std(ddof=1) * np.abs(self.loadings[:, 1])
        np.testing.assert_allclose(chart.ribbon.high, self.kept.mean(axis=0) + spread, atol=1e-9)
        np.testing.assert_allclose(chart.ribbon.low, self.kept.mean(axis=0) - spread, atol=1e-9)
        self.assertEqual(extremes(self.state, self.found, 9).note[:11], "component 3")

    def test_the_probe_at_a_sample_and_in_the_open(self):
        at = tuple(self.found.model.scores[5, :2])
        chart = probe(self.state, self.found, (0, 1), at)
        self.assertEqual(chart.lines.names[0], "s7")
        wanted = self.kept.mean(axis=0) + np.array(at) @ self.found.model.loadings[:, :2].T
        np.testing.assert_allclose(chart.curves[0].y, wanted, atol=1e-10)
        self.assertFalse(chart.curves[0].dashes)
        away = probe(self.state, self.found, (0, 1), (99.0, 99.0))
        self.assertIn("no samples near here", away.note)
        self.assertTrue(away.curves[0].dashes)

    def test_far_is_twice_the_usual_distance(self):
        grid = np.array([[i, j] for i in range(6) for j in range(6)], dtype=float)
        self.assertFalse(is_far(grid, 1.9))
        self.assertTrue(is_far(grid, 2.1))

    def test_one_channel_in_run_order_shows_the_raw_values(self):
        chart = channel_run(self.state, self.found, 1010.4)
        rows = [row for row in range(24) if row != 4]
        np.testing.assert_array_equal(chart.marks.y, self.table.values[rows, 5])
        np.testing.assert_array_equal(chart.marks.x, np.array(rows) + 1.0)
        self.assertEqual(channel_run(self.state, self.found, None).note, "1000 nm")

    def test_pairs_within_classes_and_over_all(self):
        found = pairs(self.state, self.found)
        np.testing.assert_allclose(found.overall, np.eye(3), atol=1e-9)
        kinds = np.array([row % 2 for row in range(24) if row != 4])
        wanted = np.mean([np.corrcoef(found.scores[kinds == kind].T) for kind in (0, 1)], axis=0)
        np.testing.assert_allclose(found.within, wanted, atol=1e-12)

    def test_rebuilt_by_more_and_more_components(self):
        self.assertEqual(component_steps(3, 12)[0], 1)
        self.assertIn(3, component_steps(3, 12))
        grid = rebuild_grid(self.found, (7, 0))
        self.assertEqual([row[0].name for row in grid.rows], ["s8", "s1"])
        shares = [cell.share for cell in grid.rows[0]]
        self.assertEqual(shares, sorted(shares))
        low, high = value_range(grid, 0)
        self.assertLessEqual(low, grid.rows[0][0].measured.min())
        self.assertGreaterEqual(high, grid.rows[0][-1].rebuilt.max())
        best_and_worst = [row[0].name for row in rebuild_grid(self.found, ()).rows]
        q = self.found.model.q
        self.assertEqual(
            best_and_worst, [self.found.treated.ids[q.argmin()], self.found.treated.ids[q.argmax()]]
        )


class Planes(unittest.TestCase):
    def setUp(self):
        rng = np.random.default_rng(2)
        x = rng.normal(size=(30, 3)) @ rng.normal(size=(3, 6)) + 0.2 * rng.normal(size=(30, 6))
        x[:, 3] = 7.0  # constant
        self.table = mixed_table(x, classes=(classes_of(30),))
        self.state, self.found = modelled(self.table, scale=ScaleSettings(method="sd"))

    def test_correlations_are_those_of_the_columns(self):
        found = correlations(self.found, (0, 2))
        names = self.found.treated.axis.labels
        for place, name in enumerate(names):
            column = self.found.z[:, place]
            if np.ptp(column) == 0.0:
                self.assertTrue(np.isnan(found[place]).all(), name)
                continue
            for side, a in enumerate((0, 2)):
                wanted = np.corrcoef(column, self.found.model.scores[:, a])[0, 1]
                self.assertAlmostEqual(found[place, side], wanted)

    def test_the_plane_shows_loadings_or_circles_and_leaves_the_weak_away(self):
        plain = loading_plane(self.found, (0, 1), False, 0.0)
        np.testing.assert_array_equal(plain.marks.x, self.found.model.loadings[:, 0])
        circles = loading_plane(self.found, (0, 1), True, 0.0)
        radii = {round(float(np.hypot(c.x, c.y).max()), 6) for c in circles.curves if not c.arrow}
        self.assertEqual(radii, {round(float(np.sqrt(0.5)), 6), 1.0})
        few = loading_plane(self.found, (0, 1), False, 0.9)
        lengths = np.hypot(*self.found.model.loadings[:, :2].T)
        self.assertEqual(len(few.marks.x), int((lengths >= 0.9 * lengths.max()).sum()))
        self.assertIn(f"{len(few.marks.x)} of ", few.note)

    def test_the_table_of_loadings_is_sorted_by_the_first(self):
        header, rows = loading_rows(self.found)
        self.assertEqual(header, ["variable", "PC1", "PC2", "PC3", "length"])
        sizes = [abs(row[1]) for row in rows]
        self.assertEqual(sizes, sorted(sizes, reverse=True))
        for row in rows:
            self.assertAlmostEqual(row[4], float(np.sqrt(sum(value**2 for value in row[1:4]))))

    def test_two_variables_and_all_of_them(self):
        values = self.table.values
        chart = scatter(self.state, 0, 4)
        np.testing.assert_array_equal(chart.marks.y, values[:, 4])
        r = np.corrcoef(values[:, 0], values[:, 4])[0, 1]
        self.assertEqual(chart.note, f"r = {r:.3f}, 30 samples".replace("-", "−"))
        self.assertEqual(scatter(self.state, 0, 3).note, "30 samples")  # a constant has no correlation
        self.assertIn("Select two", scatter(self.state, 0, 99).empty)
        picture = correlation_picture(self.table).grid
        self.assertAlmostEqual(picture.values[0, 4], r)
        rows = sample_picture(self.table).grid
        np.testing.assert_array_equal(rows.values, values[:, self.table.used_columns()])

    def test_the_picture_of_very_many_samples_and_channels_shows_means_of_neighbours(self):
        with mock.patch.multiple(variables, MOST_ROWS=8, MOST_COLUMNS=3):
            chart = sample_picture(self.table)
        columns = self.table.used_columns()
        wide = -(-len(columns) // 3)
        self.assertIn(f"mean of 4 samples, each column that of {wide} channels", chart.note)
        self.assertEqual(chart.grid.values.shape, (8, -(-len(columns) // wide)))
        some = self.table.values[4:8][:, columns[:wide]]
        self.assertAlmostEqual(chart.grid.values[1, 0], some.mean())
        self.assertEqual(chart.grid.y[:2].tolist(), [2.5, 6.5])
        self.assertAlmostEqual(chart.grid.x[0], self.table.axis.places()[columns[:wide]].mean())

    def test_gaps_leave_a_pair_out(self):
        values = self.table.values.copy()
        values[[2, 5], 0] = np.nan
        state = State.of("t", replace(self.table, values=values), Recipe(), "kind")
        self.assertEqual(len(scatter(state, 0, 1).marks.x), 28)


class Landscapes(unittest.TestCase):
    def setUp(self):
        rng = np.random.default_rng(4)
        labels = tuple(f"{a}/{b}" for a in (250, 260, 270) for b in (300, 320, 340, 360))
        values = rng.normal(size=(9, 12))
        ids = tuple(map(str, range(9)))
        self.table = Table(values, Axis(labels), ids)

    def test_a_grid_is_recognised_by_its_names(self):
        grid = grid_axes(self.table.axis)
        np.testing.assert_array_equal(grid.rows, [250, 260, 270])
        np.testing.assert_array_equal(grid.columns, [300, 320, 340, 360])
        np.testing.assert_array_equal(grid.picture(np.arange(12.0)), np.arange(12.0).reshape(3, 4))
        for labels in (
            ("a", "b", "c"),
            ("1/2", "x/y"),
            ("1/2", "1/3", "1/4"),
            ("1/1", "2/2", "3/3", "4/4", "5/5"),
        ):
            self.assertIsNone(grid_axes(Axis(labels)), labels)

    def test_holes_of_a_grid_are_gaps(self):
        grid = grid_axes(Axis(self.table.axis.labels[:-1]))
        picture = grid.picture(np.arange(11.0))
        self.assertTrue(np.isnan(picture[2, 3]))
        self.assertEqual(np.isnan(picture).sum(), 1)

    def test_pictures_of_a_sample_add_up(self):
        _, found = modelled(self.table, k=2)
        pictures = landscapes(found, grid_axes(found.treated.axis), (3,))
        by_title = {picture.title: picture.values for picture in pictures}
        np.testing.assert_allclose(by_title["3"] - by_title["rebuilt from 2"], by_title["left over"])
        np.testing.assert_allclose(by_title["3"].ravel(), self.table.values[3])
        np.testing.assert_allclose(by_title["mean"].ravel(), self.table.values.mean(axis=0))
        self.assertIn("largest Q", landscapes(found, grid_axes(found.treated.axis), ())[1].title)


if __name__ == "__main__":
    unittest.main()
