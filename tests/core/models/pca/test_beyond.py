"""Sums of powers beyond the components are the same, whether they were begun early or not."""

import unittest
from unittest import mock

import numpy as np

from scutcher.core.models.pca.engines import beyond as module
from scutcher.core.models.pca.engines.beyond import Beyond
from scutcher.core.models.pca.engines.choice import decompose
from scutcher.core.progress import Stopped
from scutcher.core.scaling.gram_matrix import GramSums, as_gram, strong_directions


def spectra(n, p, large, noise, seed=5):
    """Some strong components, noise, and one in between."""
    rng = np.random.default_rng(seed)
    z = rng.normal(size=(n, large)) * 3.0 ** -np.arange(large) @ rng.normal(size=(large, p))
    z += noise * rng.normal(size=(n, p))
    return z - z.mean(axis=0)


class Sums(unittest.TestCase):
    def setUp(self):
        patch = mock.patch.object(module, "LARGE", 1)
        patch.start()
        self.addCleanup(patch.stop)
        z = spectra(700, 420, 4, 0.02)
        self.product = z.T @ z
        self.product = (self.product + self.product.T) / 2
        values, vectors = np.linalg.eigh(self.product)
        self.values, self.vectors = values[::-1], vectors[:, ::-1]

    def check(self, beyond, k, rtol=1e-10):
        squares, cubes = beyond.sums(self.vectors[:, :k], self.values[:k])
        np.testing.assert_allclose(squares, (self.values[k:] ** 2).sum(), rtol=rtol)
        np.testing.assert_allclose(cubes, (self.values[k:] ** 3).sum(), rtol=rtol)

    def begun(self, k, away, **more):
        beyond = Beyond(as_gram(self.product), k, **more)
        self.addCleanup(beyond.__exit__)
        return beyond, beyond.begin(self.vectors[:, : k + 3], self.values[: k + 3], np.asarray(away))

    def test_begun_with_those_that_have_settled(self):
        before = self.product.copy()
        for k in (5, 8):
            with self.subTest(k):
                beyond, did = self.begun(k, [1e-12] * 4 + [1.0] * (k - 4))
                self.assertTrue(did)
                self.assertEqual(len(beyond._first), 4)
                self.check(beyond, k)
        np.testing.assert_array_equal(self.product, before)

    def test_not_begun_where_the_last_would_drown_what_is_left(self):
        beyond, did = self.begun(5, [1e-12, 1.0, 1.0, 1.0, 1.0])
        self.assertFalse(did)
        self.check(beyond, 5)

    def test_not_begun_while_nothing_is_exact(self):
        beyond, did = self.begun(5, [1e-3] * 5)
        self.assertFalse(did)
        self.check(beyond, 5)

    def test_a_pair_that_was_missed_is_noticed(self):
        beyond = Beyond(as_gram(self.product), 6)
        self.addCleanup(beyond.__exit__)
        seen = [0, 2, 3, 4, 5, 6, 7, 8, 9]  # the second was not seen then
        self.assertTrue(
            beyond.begin(self.vectors[:, seen], self.values[seen], np.array([1e-12] * 3 + [1.0] * 3))
        )
        self.check(beyond, 6)

    def test_a_matrix_that_is_partly_in_single_precision(self):
        """What is taken out is off by a millionth of it, and so are the sums by its square."""
        z = spectra(700, 420, 4, 0.02)
        sums = GramSums(*strong_directions(z[::5]))
        sums.add(z)
        for k, away in ((5, [1e-7] * 4 + [1.0]), (6, [1.0] * 6)):
            beyond = Beyond(sums.total(()), k)
            self.addCleanup(beyond.__exit__)
            began = beyond.begin(
                self.vectors[:, : k + 3], self.values[: k + 3], self.values[4] * np.array(away)
            )
            self.assertEqual(began, away[0] < 1.0)
            self.check(beyond, k, rtol=1e-6)

    def test_nobody_waits_for_it(self):
        stopped = []
        beyond, did = self.begun(5, [1e-12] * 4 + [1.0], watch=lambda share: not stopped)
        self.assertTrue(did)
        stopped.append(True)
        with self.assertRaises(Stopped):
            beyond.sums(self.vectors[:, :5], self.values[:5])
        beyond.__exit__()
        self.assertTrue(beyond._cubes._second.done())

    def test_an_engine_begins_and_gives_what_the_full_decomposition_gives(self):
        for n, p in ((900, 500), (500, 900)):
            z, begun = spectra(n, p, 4, 0.02), []
            begin = Beyond.begin

            def watched(self, *known, begin=begin, begun=begun):
                begun.append(begin(self, *known))
                return begun[-1]

            with self.subTest(f"{n} × {p}"), mock.patch.object(Beyond, "begin", watched):
                found, full = decompose(z, True, 6, "gram"), decompose(z, True)
                self.assertTrue(begun[-1])
                for k in (3, 6):
                    np.testing.assert_allclose(found.thetas(k), full.thetas(k), rtol=1e-9)


if __name__ == "__main__":
    unittest.main()
