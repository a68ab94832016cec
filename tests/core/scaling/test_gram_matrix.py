"""A Gram matrix that is partly in single precision is the one in double, to that precision of its rest."""

import unittest
from unittest import mock

import numpy as np

from scutcher.core.scaling import gram_matrix as module
from scutcher.core.scaling.gram_matrix import GramSums, as_gram, strong_directions


class InTwoParts(unittest.TestCase):
    def setUp(self):
        patch = mock.patch.object(module, "STRONG", 3)
        patch.start()
        self.addCleanup(patch.stop)
        self.rng = np.random.default_rng(4)
        strong = self.rng.normal(size=(300, 3)) * [1e4, 1e3, 1e2] @ self.rng.normal(size=(3, 40))
        self.z = strong + self.rng.normal(size=(300, 40))

    def made(self, z):
        """From two sums of unequal parts."""
        space, unit = strong_directions(z[::10])
        one, two = (GramSums(space, unit) for _ in range(2))
        for part in (slice(0, 90), slice(90, 91)):
            one.add(z[part])
        two.add(z[91:])
        return one.total([two])

    def check(self, found, z, digits=1e-6):
        """Beside the noise, whose sums of squares are near 300, and exact where it is strong."""
        wanted = z.T @ z
        self.assertTrue(found.single)
        np.testing.assert_allclose(found.diagonal(), wanted.diagonal(), rtol=1e-12)
        np.testing.assert_array_equal(found.whole(), found.whole().T)
        size = (z.std() / self.z.std()) ** 2 * 300
        np.testing.assert_allclose(found.whole(), wanted, rtol=1e-12, atol=digits * size)
        np.testing.assert_allclose(found.upper(slice(5, 9)), wanted[5:9, 5:], rtol=1e-12, atol=digits * size)
        vector = self.rng.normal(size=40)
        np.testing.assert_allclose(found.times(vector), wanted @ vector, rtol=1e-9, atol=40 * digits * size)

    def test_it_is_the_one_of_all_rows(self):
        self.check(self.made(self.z), self.z)

    def test_single_precision_alone_would_lose_the_noise(self):
        """What it is good for: sums of squares of 1e12 leave nothing of 300 in seven digits."""
        plain = self.z.astype(np.float32)
        lost = np.abs((plain.T @ plain).astype(float) - self.z.T @ self.z).max()
        kept = np.abs(self.made(self.z).whole() - self.z.T @ self.z).max()
        self.assertGreater(lost, 300.0)
        self.assertLess(kept, 0.05)

    def test_values_of_any_size(self):
        for size in (2.0**-90, 2.0**90):
            with self.subTest(size):
                self.check(self.made(size * self.z), size * self.z)

    def test_rows_that_come_and_go(self):
        found = self.made(self.z)
        more = self.rng.normal(size=(5, 40))
        grown = found.with_rows(more, 1.0)
        self.check(grown, np.vstack([self.z, more]))
        self.check(grown.with_rows(self.z[:20], -1.0), np.vstack([self.z[20:], more]))
        self.check(found, self.z)  # it was not changed

    def test_variables_that_count_more_or_not_at_all(self):
        weight = np.linspace(0.0, 2.0, 40)
        found = self.made(self.z).weighted(weight)
        self.check(found, self.z * weight)
        self.check(found.weighted(weight), self.z * weight**2)

    def test_a_row_that_is_beyond_single_precision(self):
        self.z[205] *= 1e30  # it is not among those that the unit is taken from
        self.assertIsNone(self.made(self.z))

    def test_data_of_few_directions_have_no_rest(self):
        z = self.rng.normal(size=(300, 2)) @ self.rng.normal(size=(2, 40))
        found = self.made(z)
        np.testing.assert_allclose(found.whole(), z.T @ z, atol=1e-9)
        self.assertLess(np.abs(found.rest).max(), 1e-20)
        nothing = self.made(np.zeros((300, 40)))
        np.testing.assert_array_equal(nothing.whole(), np.zeros((40, 40)))


class InDouble(unittest.TestCase):
    def test_a_matrix_as_it_is(self):
        rng = np.random.default_rng(5)
        z = rng.normal(size=(30, 8))
        product = z.T @ z
        found = as_gram(product)
        self.assertFalse(found.single)
        self.assertIs(found.whole(), product)
        self.assertIs(as_gram(found), found)
        vector, weight = rng.normal(size=(2, 8))
        np.testing.assert_allclose(found.times(vector), product @ vector, atol=1e-12)
        other = found.with_rows(z[:4], -1.0).weighted(weight)
        wanted = (z[4:] * weight).T @ (z[4:] * weight)
        np.testing.assert_allclose(other.whole(), wanted, atol=1e-12)
        np.testing.assert_allclose(other.diagonal(), wanted.diagonal(), atol=1e-12)
        np.testing.assert_allclose(other.times(vector), wanted @ vector, atol=1e-12)


if __name__ == "__main__":
    unittest.main()
