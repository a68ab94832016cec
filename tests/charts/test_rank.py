"""What the Rank page shows, as data: of much data the check behind brings more components than the fit."""

import unittest

import numpy as np

from scutcher.charts.rank import GRID, Portrait, fitted_measured, most_components, portraits, shares
from scutcher.core.models.pca.decomposition import agree_with
from scutcher.core.recipes.recipe import ModelSettings, Recipe
from scutcher.study.document.state import State
from scutcher.study.evaluation.checks import check
from scutcher.study.evaluation.evaluator import Evaluator
from tests.core.making import ordered_table, random_spectra


class MoreComponents(unittest.TestCase):
    def setUp(self):
        table = ordered_table(random_spectra(40, 60))
        recipe = Recipe(model=ModelSettings(components=3))
        self.state = State.of("t", table, recipe)
        self.found = Evaluator(ahead=5).evaluate(table, recipe)
        self.checked = check(self.found)

    def test_ten_or_fewer_at_first_and_fifteen_when_the_check_is_there(self):
        self.assertEqual(len(shares(self.found, None).each), 5)
        self.assertEqual(len(portraits(self.state, self.found)), 5)
        drawn = shares(self.found, self.checked)
        self.assertEqual(len(drawn.each), 15)
        z = self.found.z
        squares = np.linalg.svd(z, compute_uv=False) ** 2
        np.testing.assert_allclose(drawn.each, (squares / squares.sum())[:15], rtol=1e-7)
        np.testing.assert_allclose(drawn.held_out, self.checked.validation.q2[:15])
        pictures = portraits(self.state, self.found, self.checked)
        self.assertEqual([picture.component for picture in pictures], list(range(15)))

    def test_they_are_turned_as_those_on_screen(self):
        fresh = self.found.decomposition
        turned = agree_with(fresh, -fresh.loadings)
        object.__setattr__(self.found.model, "decomposition", turned)
        more = most_components(self.found, self.checked)
        np.testing.assert_allclose(more.loadings[:, :4], turned.loadings[:, :4], atol=1e-6)
        np.testing.assert_allclose(more.scores[:, :4], turned.scores[:, :4], atol=1e-6)

    def test_fitted_against_measured(self):
        rebuilt = self.found.model.reconstruction()
        axis = self.found.treated.axis
        marks = fitted_measured(self.state, self.found, axis.places()[7], ()).marks
        np.testing.assert_array_equal(marks.x, self.found.z[:, 7])
        np.testing.assert_allclose(marks.y, rebuilt[:, 7])
        one = fitted_measured(self.state, self.found, None, (12,)).marks
        np.testing.assert_array_equal(one.x, self.found.z[12])
        np.testing.assert_allclose(one.y, rebuilt[12])
        most = int(np.argmax(rebuilt.var(axis=0)))
        self.assertIn(axis.name(most), fitted_measured(self.state, self.found, None, ()).note)


def portrait(scores, codes):
    places = np.arange(3.0)
    classes = np.unique(codes, return_inverse=True)
    return Portrait(0, places, places, np.asarray(scores), *classes, 0.5, None)


class Lanes(unittest.TestCase):
    def test_every_score_of_few(self):
        lanes = portrait([4.0, 2.0, 3.0, 2.0], [1, 0, 1, -1]).lanes
        self.assertEqual([code for code, _ in lanes], [-1, 0, 1])
        np.testing.assert_array_equal(lanes[2][1], [1.0, 0.5])
        self.assertEqual(portrait([1.0, 1.0], [0, 0]).lanes[0][1].tolist(), [0.0, 0.0])

    def test_of_many_each_place_once_and_the_farthest_too(self):
        rng = np.random.default_rng(1)
        scores, codes = rng.normal(size=30_000), np.arange(30_000) % 3
        scores[17] = 40.0  # far from the others, of class 2
        lanes = portrait(scores, codes).lanes
        whole = (scores - scores.min()) / np.ptp(scores)
        for code, there in lanes:
            self.assertEqual(there.tolist(), sorted({round(GRID * s) / GRID for s in whole[codes == code]}))
        self.assertEqual(lanes[2][1][-1], 1.0)

    def test_eight_classes_but_every_step_of_a_continuous_scale(self):
        scores = np.arange(16.0)
        self.assertEqual(len(portrait(scores, np.arange(16)).lanes), 8)
        self.assertEqual(len(portrait(scores, 1000 + np.arange(16)).lanes), 16)


if __name__ == "__main__":
    unittest.main()
