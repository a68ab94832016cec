"""A Gram matrix that follows samples out and in is the one that is computed from those that are there."""

import unittest

import numpy as np

from scutcher.core.recipes.recipe import ScaleSettings
from scutcher.core.scaling import gram_downdating
from scutcher.core.scaling.gram_downdating import downdated, known_gram
from scutcher.core.scaling.gram_matrix import as_gram
from scutcher.core.scaling.scaler import fit_scaler
from tests.core.making import ordered_table

NONE = np.empty((0, 12))


class Downdating(unittest.TestCase):
    def setUp(self):
        rng = np.random.default_rng(5)
        self.x = 3.0 + rng.normal(size=(60, 12)) * np.geomspace(1.0, 1e-3, 12)
        self.axis = ordered_table(self.x).axis

    def direct(self, rows, **settings):
        """The Gram matrix of these rows, and their scaler."""
        scaler = fit_scaler(self.x[rows], ScaleSettings(**settings), self.axis)
        z = (self.x[rows] - scaler.centre) * scaler.weight
        return known_gram(as_gram(z.T @ z), scaler)

    def test_it_is_the_one_of_the_samples_that_are_left(self):
        everything, left = np.arange(60), np.delete(np.arange(60), [3, 17, 40])
        for settings in (
            {},
            {"method": "sd"},
            {"method": "pareto"},
            {"centre": "none"},
            {"centre": "none", "method": "sd"},
        ):
            with self.subTest(settings=settings):
                before, wanted = self.direct(everything, **settings), self.direct(left, **settings)
                kept = before.product.whole().copy()
                by_mean = settings.get("centre", "mean") == "mean"
                found = downdated(before, self.x[[3, 17, 40]], NONE, wanted.scaler, len(left), by_mean)
                size = np.sqrt(np.outer(wanted.product.diagonal(), wanted.product.diagonal()))
                new = found.product.whole()
                self.assertLess(np.abs((new - wanted.product.whole()) / size).max(), 1e-12)
                np.testing.assert_allclose(found.product.diagonal(), new.diagonal(), rtol=1e-12)
                np.testing.assert_array_equal(new, new.T)
                np.testing.assert_array_equal(before.product.whole(), kept)
                back = downdated(found, NONE, self.x[[3, 17, 40]], before.scaler, 60, by_mean)
                size = np.sqrt(np.outer(kept.diagonal(), kept.diagonal()))
                self.assertLess(np.abs((back.product.whole() - kept) / size).max(), 1e-12)
                self.assertEqual(back.steps, 2)

    def test_samples_that_change_places(self):
        one, other = np.arange(50), np.arange(4, 54)
        before, wanted = self.direct(one), self.direct(other)
        found = downdated(before, self.x[:4], self.x[50:54], wanted.scaler, 50, True)
        np.testing.assert_allclose(found.product.whole(), wanted.product.whole(), rtol=1e-9, atol=1e-13)

    def test_a_sample_that_was_nearly_everything_is_not_taken_off(self):
        """Its rounding would be all that is left of a variable."""
        self.x[7, 4] = 1e6
        left = np.delete(np.arange(60), 7)
        before, wanted = self.direct(np.arange(60)), self.direct(left)
        self.assertIsNone(downdated(before, self.x[[7]], NONE, wanted.scaler, 59, True))
        rest = self.direct(left, method="sd")
        before = self.direct(np.arange(60), method="sd")
        self.assertIsNone(downdated(before, self.x[[7]], NONE, rest.scaler, 59, True))

    def test_what_is_lost_little_by_little_is_lost_as_well(self):
        self.x[:8, 4] += 10.0 ** np.arange(8, 0, -1)
        rows, at = np.arange(60), self.direct(np.arange(60))
        for gone in range(8):
            rows = rows[1:]
            at = downdated(at, self.x[[gone]], NONE, self.direct(rows).scaler, len(rows), True)
            if at is None:
                break
        self.assertIsNone(at)

    def test_after_many_steps_it_is_computed_anew(self):
        rows, at, steps = np.arange(60), self.direct(np.arange(60)), 0
        while at is not None:
            rows = rows[1:]
            found = downdated(at, self.x[[steps]], NONE, self.direct(rows).scaler, len(rows), True)
            at, steps = found, steps + (found is not None)
        self.assertEqual(steps, gram_downdating.MOST_STEPS)

    def test_a_variable_that_begins_to_vary_is_not_known(self):
        self.x[:, 2] = 1.0
        self.x[7, 2] = 2.0
        left = np.delete(np.arange(60), 7)
        before, wanted = self.direct(left, method="sd"), self.direct(np.arange(60), method="sd")
        self.assertIsNone(downdated(before, NONE, self.x[[7]], wanted.scaler, 60, True))
        back = downdated(wanted, self.x[[7]], NONE, before.scaler, 59, True)
        np.testing.assert_allclose(back.product.whole(), before.product.whole(), rtol=1e-9, atol=1e-11)


if __name__ == "__main__":
    unittest.main()
