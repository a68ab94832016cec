"""Components against a slower way, hand-worked numbers and their properties."""

import unittest

import numpy as np

from scutcher.core.errors import ModelError
from scutcher.core.models.pca.component_model import explained, explained_by_variable
from scutcher.core.models.pca.decomposition import agree_with
from scutcher.core.models.pca.engines.choice import decompose
from tests.core.making import random_spectra


def by_covariance(z):
    """The slow way: eigenvectors of the covariance matrix."""
    values, vectors = np.linalg.eigh(z.T @ z / (len(z) - 1))
    return values[::-1], vectors[:, ::-1]


class Decompose(unittest.TestCase):
    def setUp(self):
        x = random_spectra()
        self.z = x - x.mean(axis=0)

    def test_hand_worked(self):
        # Three points on the line y = 2x: one component along (1, 2)/√5, scores −√5, 0, √5.
        z = np.array([[-1.0, -2.0], [0.0, 0.0], [1.0, 2.0]])
        found = decompose(z, centred=True)
        self.assertEqual(found.rank, 1)
        np.testing.assert_allclose(found.loadings[:, 0], np.array([1.0, 2.0]) / np.sqrt(5.0))
        np.testing.assert_allclose(found.scores[:, 0], [-np.sqrt(5.0), 0.0, np.sqrt(5.0)], atol=1e-15)
        self.assertAlmostEqual(found.eigenvalues[0], 5.0)
        self.assertAlmostEqual(found.total_variance, 5.0)

    def test_agrees_with_the_covariance_matrix(self):
        found = decompose(self.z, centred=True)
        values, vectors = by_covariance(self.z)
        np.testing.assert_allclose(found.eigenvalues[:5], values[:5], rtol=1e-10)
        cosines = np.abs(np.sum(found.loadings[:, :3] * vectors[:, :3], axis=0))
        np.testing.assert_allclose(cosines, 1.0, atol=1e-9)

    def test_orthonormal_loadings_reconstruct(self):
        found = decompose(self.z, centred=True)
        np.testing.assert_allclose(found.loadings.T @ found.loadings, np.eye(found.rank), atol=1e-12)
        np.testing.assert_allclose(found.scores @ found.loadings.T, self.z, atol=1e-12)
        np.testing.assert_allclose(found.scores, self.z @ found.loadings, atol=1e-12)

    def test_largest_element_of_each_loading_is_positive(self):
        loadings = decompose(self.z, centred=True).loadings
        largest = loadings[np.abs(loadings).argmax(axis=0), np.arange(loadings.shape[1])]
        self.assertTrue((largest > 0).all())

    def test_rows_in_another_order_give_the_same_loadings(self):
        order = np.random.default_rng(1).permutation(len(self.z))
        first, second = decompose(self.z, True), decompose(self.z[order], True)
        np.testing.assert_allclose(first.loadings[:, :3], second.loadings[:, :3], atol=1e-10)
        np.testing.assert_allclose(first.scores[order, :3], second.scores[:, :3], atol=1e-10)

    def test_rank(self):
        cases = {
            "wide, centred": (random_spectra(10, 40), True, 9),
            "tall": (random_spectra(40, 10), True, 10),
            "duplicated columns": (np.tile(np.random.default_rng(2).normal(size=(20, 3)), 2), True, 3),
            "duplicated rows": (np.repeat(np.random.default_rng(3).normal(size=(4, 9)), 3, axis=0), True, 3),
            "uncentred, wide": (random_spectra(10, 40), False, 10),
        }
        for name, (x, centred, rank) in cases.items():
            with self.subTest(name):
                z = x - x.mean(axis=0) if centred else x
                self.assertEqual(decompose(z, centred).rank, rank)

    def test_uncentred_eigenvalues_are_over_n(self):
        x = random_spectra(12, 5)
        found = decompose(x, centred=False)
        self.assertAlmostEqual(found.total_variance, np.trace(x.T @ x) / 12)
        self.assertAlmostEqual(found.eigenvalues.sum(), found.total_variance)

    def test_nothing_varies(self):
        with self.assertRaises(ModelError) as caught:
            decompose(np.zeros((5, 3)), True)
        self.assertIn("None of the 3 variables varies over the 5 samples", str(caught.exception))

    def test_input_is_not_changed(self):
        before = self.z.copy()
        self.z.flags.writeable = False
        decompose(self.z, True)
        np.testing.assert_array_equal(self.z, before)


class Agreement(unittest.TestCase):
    def test_turned_to_agree_and_still_a_decomposition(self):
        x = random_spectra()
        z = x - x.mean(axis=0)
        first = decompose(z, True)
        mirrored = first.loadings[:, :4] * np.array([-1.0, 1.0, -1.0, 1.0])
        turned = agree_with(first, mirrored)
        np.testing.assert_allclose(turned.loadings[:, :4], mirrored)
        np.testing.assert_allclose(turned.scores @ turned.loadings.T, z, atol=1e-12)


class Explained(unittest.TestCase):
    def test_shares_add_up_to_one(self):
        x = random_spectra()
        found = decompose(x - x.mean(axis=0), True)
        self.assertAlmostEqual(explained(found).sum(), 1.0)

    def test_an_engine_that_knows_the_squares_of_the_variables_says_the_same(self):
        x = random_spectra(60, 20)
        z = x - x.mean(axis=0)
        known, unknown = decompose(z, True, 3, "gram"), decompose(z, True)
        self.assertIsNone(unknown.variable_squares)
        np.testing.assert_allclose(known.variable_squares, (z**2).sum(axis=0))
        shares = explained_by_variable(known, z, 3)
        np.testing.assert_allclose(shares, explained_by_variable(unknown, z, 3), atol=1e-10)

    def test_by_variable_is_one_minus_residual_share(self):
        x = random_spectra()
        x[:, 7] = 3.0
        z = x - x.mean(axis=0)
        found = decompose(z, True)
        residual = z - found.scores[:, :2] @ found.loadings[:, :2].T
        with np.errstate(invalid="ignore"):
            expected = 1.0 - (residual**2).sum(axis=0) / (z**2).sum(axis=0)
        shares = explained_by_variable(found, z, 2)
        self.assertTrue(np.isnan(shares[7]))
        others = np.arange(z.shape[1]) != 7
        np.testing.assert_allclose(shares[others], expected[others], atol=1e-12)
