"""Scores turned onto others, partners and errors of differences, against slower and known answers."""

import unittest

import numpy as np
from scipy.optimize import minimize
from scipy.stats import ortho_group

from scutcher.core.validation.comparison import difference_error, partners, turn


class Turning(unittest.TestCase):
    def setUp(self):
        self.rng = np.random.default_rng(5)
        self.a = self.rng.normal(size=(30, 3)) * [5.0, 2.0, 1.0]

    def test_a_turned_and_stretched_copy_comes_back(self):
        spun = 0.2 * (self.a - self.a.mean(axis=0)) @ ortho_group.rvs(3, random_state=1) + [4.0, 5.0, 6.0]
        found = turn(self.a, spun)
        np.testing.assert_allclose(found.scores, self.a, atol=1e-12)
        np.testing.assert_allclose(found.of(spun), self.a, atol=1e-12)
        self.assertAlmostEqual(found.agreement, 1.0, 12)
        self.assertLess(found.moved.max(), 1e-12)
        self.assertLess(found.by_chance, 0.6)

    def test_no_other_rotation_comes_nearer(self):
        """Against a search over all rotations of the plane, both ways round."""
        a = self.a[:, :2] - self.a[:, :2].mean(axis=0)
        b = a + self.rng.normal(size=a.shape)
        found = turn(a, b)
        least = ((found.scores - a) ** 2).sum()
        b = b - b.mean(axis=0)

        def away(angle, flip):
            c, s = np.cos(angle), np.sin(angle)
            turned = b @ np.array([[c, s], [-s, c]]) * [1.0, flip]
            scale = (turned * a).sum() / (turned**2).sum()
            return ((scale * turned - a) ** 2).sum()

        best = min(
            minimize(lambda x, flip=flip: away(x[0], flip), [start]).fun
            for flip in (1.0, -1.0)
            for start in np.linspace(0, 2 * np.pi, 8)
        )
        self.assertAlmostEqual(least, best, 6)

    def test_another_number_of_components(self):
        for k in (1, 2, 5):
            other = np.hstack([self.a, self.rng.normal(size=(30, 2))])[:, :k]
            found = turn(self.a, other)
            self.assertEqual(found.scores.shape, self.a.shape)
            product = found.rotation.T @ found.rotation if k >= 3 else found.rotation @ found.rotation.T
            np.testing.assert_allclose(product, np.eye(min(k, 3)), atol=1e-12)

    def test_what_has_nothing_in_common_agrees_as_by_chance(self):
        above = 0
        for seed in range(60):
            rng = np.random.default_rng(seed)
            found = turn(rng.normal(size=(25, 3)), rng.normal(size=(25, 3)))
            above += found.agreement > found.by_chance
        self.assertLessEqual(above, 9)  # 3 of 60 are due

    def test_scores_without_spread(self):
        found = turn(np.zeros((5, 2)), np.zeros((5, 3)))
        self.assertEqual(found.agreement, 0.0)
        self.assertTrue(np.isfinite(found.moved).all())

    def test_the_one_that_moved(self):
        b = self.a.copy()
        b[7] += 30.0
        self.assertEqual(int(turn(self.a, b).moved.argmax()), 7)


class Partnership(unittest.TestCase):
    def test_swapped_and_turned_over_components_find_each_other(self):
        a = np.linalg.qr(np.random.default_rng(2).normal(size=(40, 4)))[0]
        b = a[:, [1, 0, 3]] * [1.0, -2.0, 1.0]
        pairs = {(one.a, one.b) for one in partners(a, b)}
        self.assertEqual(pairs, {(0, 1), (1, 0), (3, 2), (2, None)})

    def test_angles(self):
        a, b = np.array([[1.0], [0.0]]), np.array([[1.0], [np.tan(np.radians(30.0))]])
        self.assertAlmostEqual(partners(a, b)[0].angle, 30.0, 9)
        far = np.array([[1.0], [2.0]])
        self.assertEqual([(one.a, one.b) for one in partners(a, far)], [(0, None), (None, 0)])


class Errors(unittest.TestCase):
    def test_of_means_it_is_the_textbook_one(self):
        rng = np.random.default_rng(3)
        x, y = rng.normal(size=(2, 40))
        found = difference_error(lambda stay: y[stay].mean() - x[stay].mean(), np.arange(40))
        self.assertAlmostEqual(found, (y - x).std(ddof=1) / np.sqrt(40), 9)

    def test_replicates_go_together(self):
        x = np.repeat(np.random.default_rng(4).normal(size=20), 3)
        together = difference_error(lambda stay: x[stay].mean(), np.repeat(np.arange(20), 3))
        apart = difference_error(lambda stay: x[stay].mean(), np.arange(60))
        self.assertAlmostEqual(together, x[::3].std(ddof=1) / np.sqrt(20), 9)
        self.assertLess(apart, together)

    def test_too_few_groups_give_none(self):
        self.assertTrue(np.isnan(difference_error(lambda stay: 0.0, np.array([0, 0, 1]))))


if __name__ == "__main__":
    unittest.main()
