"""Distances and shares of a model against their definitions, sample by sample."""

import unittest

import numpy as np

from scutcher.core.distances.contributions import normal_band, q_shares, residuals, t2_shares
from scutcher.core.errors import ModelError
from scutcher.core.models.pca.component_model import keep
from scutcher.core.models.pca.engines.choice import decompose
from scutcher.core.recipes.recipe import LimitSettings
from tests.core.making import random_spectra


class Distances(unittest.TestCase):
    def setUp(self):
        x = random_spectra()
        self.z = x - x.mean(axis=0)
        self.found = decompose(self.z, True)
        self.model = keep(self.found, 3, LimitSettings())

    def test_t2_is_mahalanobis_in_the_scores(self):
        scores = self.model.scores
        inverse = np.linalg.inv(np.cov(scores.T))
        for row in range(len(self.z)):
            self.assertAlmostEqual(self.model.t2[row], scores[row] @ inverse @ scores[row], places=8)

    def test_q_is_the_squared_residual(self):
        left_over = self.z - self.model.reconstruction()
        np.testing.assert_allclose(self.model.q, (left_over**2).sum(axis=1), rtol=1e-9)

    def test_all_components_leave_nothing(self):
        model = keep(self.found, self.found.rank, LimitSettings())
        np.testing.assert_allclose(model.q, 0.0, atol=1e-20)
        self.assertIsNone(model.q_limit.value)
        self.assertIsNone(model.joint)
        self.assertIsNone(model.past(model.q, model.q_limit))

    def test_too_many_components_says_the_rank(self):
        with self.assertRaises(ModelError) as caught:
            keep(self.found, 31, LimitSettings())
        self.assertEqual(
            str(caught.exception), "31 components were asked for; these data have rank 29. Choose 1 to 29."
        )

    def test_past_is_beyond_the_limit(self):
        past = self.model.past(self.model.t2, self.model.t2_limit)
        np.testing.assert_array_equal(past, self.model.t2 > self.model.t2_limit.value)

    def test_higher_level_is_a_higher_limit(self):
        high = keep(self.found, 3, LimitSettings(level=0.99))
        for name in ("t2_limit", "q_limit", "joint_limit"):
            self.assertGreater(getattr(high, name).value, getattr(self.model, name).value)

    def test_shares_add_up_to_the_distances(self):
        np.testing.assert_allclose(np.abs(q_shares(self.z, self.model)).sum(axis=1), self.model.q, rtol=1e-9)
        np.testing.assert_allclose(t2_shares(self.z, self.model).sum(axis=1), self.model.t2, rtol=1e-9)
        np.testing.assert_array_equal(
            np.sign(q_shares(self.z, self.model)), np.sign(residuals(self.z, self.model))
        )

    def test_band_is_that_of_quantiles(self):
        rng = np.random.default_rng(1)
        for n in (1, 2, 3, 40, 144):
            shares = rng.normal(size=(n, 7))
            shares[rng.integers(n), 3] = np.nan
            for coverage in (0.95, 0.5):
                band = normal_band(shares, coverage)
                tail = (1.0 - coverage) / 2.0
                low, high = np.quantile(shares, (tail, 1.0 - tail), axis=0)
                np.testing.assert_allclose(band.low, low, rtol=1e-13, atol=1e-15)
                np.testing.assert_allclose(band.high, high, rtol=1e-13, atol=1e-15)

    def test_band_holds_its_share_of_the_samples(self):
        shares = np.random.default_rng(0).normal(size=(2000, 3))
        band = normal_band(shares)
        inside = ((shares >= band.low) & (shares <= band.high)).mean(axis=0)
        np.testing.assert_allclose(inside, 0.95, atol=0.002)
