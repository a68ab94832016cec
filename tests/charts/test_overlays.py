"""What lies over the score plane, as data, against loops."""

import unittest
from dataclasses import replace
from unittest import mock

import numpy as np

from scutcher.charts import overlays
from scutcher.charts.emphasis import colouring_of
from scutcher.charts.overlays import Overlays, replicate_stars, with_overlays
from scutcher.charts.scores import scores
from scutcher.core.groups.score_ellipses import centroids
from scutcher.core.recipes.recipe import ModelSettings, Recipe
from scutcher.study.document.state import State
from scutcher.study.evaluation.evaluator import Evaluator
from tests.core.making import classes_of, ordered_table, random_spectra


class OverThePlane(unittest.TestCase):
    def setUp(self):
        table = replace(ordered_table(random_spectra(45, 20, 1)), classes=(classes_of(45),))
        self.state = State.of("t", table, Recipe(model=ModelSettings(components=3)), "kind")
        self.found = Evaluator().evaluate(table, self.state.recipe)

    def drawn(self, **wanted):
        plane = scores(self.state, self.found, (0, 1))
        return plane, with_overlays(plane, self.state, self.found, (0, 1), Overlays(**wanted))

    def test_the_line_in_run_order_passes_over_some_of_very_many_samples_and_says_so(self):
        plane, chart = self.drawn(order=True)
        np.testing.assert_array_equal(chart.curves[0].x, plane.marks.x)
        self.assertEqual(chart.note, plane.note)
        with mock.patch.object(overlays, "MOST_ORDER", 20):
            plane, chart = self.drawn(order=True)
        np.testing.assert_array_equal(chart.curves[0].y, plane.marks.y[::3])
        self.assertIn("run order: one of 3 samples", chart.note)

    def test_stars_of_replicates_against_a_loop(self):
        points = np.random.default_rng(3).normal(size=(7, 2))
        names = ("b", "a", "", "b", "c", "a", "b")
        (star,) = replicate_stars(points, names)
        found = {tuple(np.round(ends, 9)) for ends in self.pieces(star)}
        wanted = set()
        for name in ("a", "b"):
            rows = [row for row in range(7) if names[row] == name]
            middle = sum(points[row] for row in rows) / len(rows)
            wanted |= {tuple(np.round([*middle, *points[row]], 9)) for row in rows}
        self.assertEqual(found, wanted)
        self.assertEqual(replicate_stars(points[:3], ("", "a", "b")), [])

    @staticmethod
    def pieces(curve):
        ends = np.column_stack([curve.x, curve.y]).reshape(-1, 3, 2)
        assert np.isnan(ends[:, 2]).all()
        return ends[:, :2].reshape(-1, 4)

    def test_a_centroid_is_the_mean_of_its_class(self):
        _, chart = self.drawn(centroids=True)
        codes = colouring_of(self.state).codes
        self.assertEqual(len(chart.curves), len(np.unique(codes)))
        for curve in chart.curves:
            wanted = self.found.model.scores[codes == curve.code, :2].mean(axis=0)
            np.testing.assert_allclose([np.mean(curve.x[:2]), np.mean(curve.y[3:])], wanted)

    def test_points_that_are_not_known_have_no_part_in_a_centroid(self):
        points = np.array([[1.0, 2.0], [np.nan, 5.0], [3.0, 4.0], [7.0, 7.0], [np.nan, np.nan]])
        found = centroids(points, np.array([2, 2, 2, -1, 0]))
        self.assertEqual({code: place.tolist() for code, place in found.items()}, {2: [2.0, 3.0]})
        self.assertEqual(centroids(points[:0], np.empty(0, dtype=np.intp)), {})


if __name__ == "__main__":
    unittest.main()
