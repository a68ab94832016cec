"""The matrix that the model sees: the same by rows, in parts on two threads, or as a whole."""

import time
import unittest
from unittest import mock

import numpy as np

from scutcher.core.models.pca.component_model import explained_by_variable, keep
from scutcher.core.models.pca.engines.choice import decompose
from scutcher.core.numeric import threads
from scutcher.core.progress import Stopped
from scutcher.core.recipes.recipe import LimitSettings, ScaleSettings
from scutcher.core.scaling import gram_matrix as gram_module
from scutcher.core.scaling import scaled_matrix as scaled_module
from scutcher.core.scaling.scaled_matrix import Scaled, as_scaled
from scutcher.core.scaling.scaler import fit_scaler
from tests.core.making import ordered_table, random_spectra


def in_small_parts(test):
    """Every pass is shared by two threads, seven rows at a time."""
    for module, name, value in (
        (threads, "MUCH", 0),
        (threads, "LEAST_ROWS", 7),
        (threads, "PART_CELLS", 7),
        (scaled_module, "SMALL", 0.0),
    ):
        patch = mock.patch.object(module, name, value)
        patch.start()
        test.addCleanup(patch.stop)
    patch = mock.patch.object(threads.in_parts, "__defaults__", (None, 0, None))
    patch.start()
    test.addCleanup(patch.stop)


class Passes(unittest.TestCase):
    def setUp(self):
        x = 3.0 + random_spectra(40, 17)
        scaler = fit_scaler(x, ScaleSettings(method="sd"), ordered_table(x).axis)
        self.z = (x - x.mean(axis=0)) / x.std(axis=0, ddof=1)
        self.scaled = Scaled(x, scaler)

    def test_rows_are_those_of_the_whole(self):
        for which in (slice(3, 9), np.array([5, 0, 39]), slice(None, None, 4)):
            np.testing.assert_allclose(self.scaled.rows(which), self.z[which], atol=1e-13)
        self.assertNotIn("whole", vars(self.scaled))  # nothing was made that nobody asked for
        whole = self.scaled.whole
        np.testing.assert_allclose(whole, self.z, atol=1e-13)
        self.assertIs(self.scaled.whole, whole)
        np.testing.assert_array_equal(self.scaled.rows(slice(3, 9)), whole[3:9])
        rows, columns = np.array([5, 0, 39]), np.array([16, 2])
        for scaled, wanted in ((self.scaled, self.z), (Scaled(self.z), self.z)):
            np.testing.assert_allclose(scaled.block(rows, columns), wanted[rows][:, columns], atol=1e-13)
        self.assertEqual(self.scaled.shape, (40, 17))
        self.assertEqual(self.scaled.work, 40 * 17 * 17)

    def test_gram_of_tall_and_wide_alone_and_shared(self):
        wanted = self.z.T @ self.z
        np.testing.assert_allclose(self.scaled.gram().whole(), wanted, atol=1e-11)
        wide = Scaled(self.z.T.copy())
        in_small_parts(self)
        for found in (self.scaled.gram(), wide.gram()):
            np.testing.assert_allclose(found.whole(), wanted, atol=1e-11)
            np.testing.assert_array_equal(found.whole(), found.whole().T)
            np.testing.assert_allclose(found.diagonal(), wanted.diagonal(), atol=1e-11)
            self.assertFalse(found.single)

    def test_gram_of_large_data_is_partly_in_single_precision(self):
        """From the number of multiplications and the size on where that is faster, unless somebody asks."""
        wanted = self.z.T @ self.z
        in_small_parts(self)
        for name, value in (("LARGE", 40 * 17 * 17), ("WIDE", 17)):
            patch = mock.patch.object(scaled_module, name, value)
            patch.start()
            self.addCleanup(patch.stop)
        for z in (self.scaled, Scaled(self.z.T.copy())):
            found = z.gram()
            self.assertTrue(found.single)
            np.testing.assert_allclose(found.whole(), wanted, atol=1e-5)
            self.assertFalse(np.allclose(found.whole(), wanted, atol=1e-11, rtol=0.0))
            self.assertFalse(z.gram(double=True).single)
        few = Scaled(self.z[:39])
        self.assertFalse(few.gram().single)
        known = Scaled(self.z, known=found)
        self.assertIs(known.gram(), found)
        np.testing.assert_allclose(known.gram(double=True).whole(), wanted, atol=1e-11)

    def test_the_same_to_the_last_bit_whichever_thread_is_faster(self):
        in_small_parts(self)
        add, rng = gram_module.add_gram, np.random.default_rng(0)

        def uneven(*given):
            time.sleep(rng.choice((0.0, 0.01)))
            add(*given)

        wanted = self.scaled.gram().whole()
        with mock.patch.object(gram_module, "add_gram", uneven):
            for _ in range(6):
                np.testing.assert_array_equal(self.scaled.gram().whole(), wanted)

    def test_onto_vectors_and_squares_of_rows(self):
        vectors = np.random.default_rng(0).normal(size=(17, 3))
        for _ in range(2):
            for back in (False, True):
                side, squares, image = self.scaled.onto(vectors, back=back)
                np.testing.assert_allclose(side, self.z @ vectors, atol=1e-12)
                np.testing.assert_allclose(squares, (self.z**2).sum(axis=1), atol=1e-12)
                np.testing.assert_allclose(image, back * (self.z.T @ self.z @ vectors), atol=1e-11)
            in_small_parts(self)

    def test_a_matrix_that_is_scaled_already(self):
        plain = as_scaled(self.z)
        self.assertIs(plain.whole, self.z)
        self.assertIs(as_scaled(plain), plain)
        np.testing.assert_array_equal(plain.rows(np.array([2, 4])), self.z[[2, 4]])

    def test_a_pass_can_be_stopped(self):
        in_small_parts(self)
        for work in (self.scaled.gram, lambda watch: self.scaled.onto(np.eye(17), watch)):
            asked = []
            with self.assertRaises(Stopped):
                work(lambda share, asked=asked: asked.append(share) or len(asked) < 3)
            self.assertLess(len(asked), 6)


class Fits(unittest.TestCase):
    """A fit by rows, shared by two threads, is the fit of the whole matrix."""

    def test_model_of_rows_is_model_of_the_whole(self):
        rng = np.random.default_rng(5)
        scores = rng.normal(size=(900, 4)) * [9.0, 6.0, 4.0, 2.0]
        x = 1e6 + scores @ rng.normal(size=(4, 700)) + 0.3 * rng.normal(size=(900, 700))
        scaler = fit_scaler(x, ScaleSettings(), ordered_table(x).axis)
        whole = decompose(scaler.apply(x), True, 6, "exact")
        in_small_parts(self)
        z = Scaled(x, scaler)
        found = decompose(z, True, 6, "gram")
        self.assertNotIn("whole", vars(z))
        np.testing.assert_allclose(found.eigenvalues, whole.eigenvalues[:6], rtol=1e-8)
        np.testing.assert_allclose(found.loadings, whole.loadings[:, :6], atol=1e-6)
        ours, theirs = (keep(one, 3, LimitSettings()) for one in (found, whole))
        for name in ("t2", "q", "joint"):
            np.testing.assert_allclose(getattr(ours, name), getattr(theirs, name), rtol=1e-6)
        self.assertAlmostEqual(ours.q_limit.value / theirs.q_limit.value, 1.0, places=8)
        np.testing.assert_allclose(
            explained_by_variable(found, z, 3), explained_by_variable(whole, z.whole, 3), atol=1e-9
        )
        self.assertEqual(found.rank, whole.rank)

    def test_it_can_be_stopped_at_any_place(self):
        in_small_parts(self)
        z = Scaled(random_spectra(500, 360))
        asked = []
        decompose(z, False, 3, "gram", watch=lambda share: asked.append(share) or True)
        self.assertEqual(set(asked), {0.0})  # it only asks
        for place in range(1, 4 * len(asked) // 5, max(1, len(asked) // 7)):
            count = []
            with self.subTest(place), self.assertRaises(Stopped):
                decompose(z, False, 3, "gram", watch=lambda s, c=count, at=place: c.append(s) or len(c) < at)


if __name__ == "__main__":
    unittest.main()
