"""What the Rank page shows, as data: of much data the check behind brings more components than the fit."""

import unittest

import numpy as np

from scutcher.charts.rank import most_components, portraits, shares
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


if __name__ == "__main__":
    unittest.main()
