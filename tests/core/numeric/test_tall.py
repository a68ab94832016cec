"""What is decomposed block by block is what NumPy gives, and other threads go on meanwhile."""

import unittest

import numpy as np

from scutcher.core.models.pca.decomposition import find_eigenvalues
from scutcher.core.numeric.matrix_rank import counted_rank
from scutcher.core.numeric.tall import reduced, singular_values, triangle
from tests.core.waiting import longest_wait


class Tall(unittest.TestCase):
    def setUp(self):
        self.rng = np.random.default_rng(4)

    def matrices(self):
        for shape in ((1000, 3), (977, 7), (500, 1), (64, 4), (63, 4), (40, 30), (30, 30), (700, 520)):
            z = self.rng.normal(size=shape) * 0.9 ** np.arange(shape[1])
            yield z
            yield np.asfortranarray(z)
        low = self.rng.normal(size=(400, 2)) @ self.rng.normal(size=(2, 6))
        yield low

    def test_the_singular_values_are_the_same(self):
        for z in self.matrices():
            for one in (z, z.T):
                with self.subTest(one.shape):
                    before = one.copy()
                    wanted = np.linalg.svd(one, compute_uv=False)
                    np.testing.assert_allclose(singular_values(one), wanted, atol=1e-13 * wanted[0])
                    np.testing.assert_array_equal(one, before)

    def test_the_triangle_is_the_same_but_for_signs(self):
        for z in self.matrices():
            with self.subTest(z.shape):
                found, wanted = triangle(z), np.linalg.qr(z, mode="r")
                np.testing.assert_allclose(found.T @ found, z.T @ z, atol=1e-12 * np.abs(z.T @ z).max())
                whole = np.linalg.matrix_rank(z) == z.shape[1]
                if whole:
                    np.testing.assert_allclose(
                        np.abs(found), np.abs(wanted), atol=1e-12 * np.abs(wanted).max()
                    )
                np.testing.assert_array_equal(np.tril(found, -1), 0.0)

    def test_few_rows_are_left(self):
        self.assertLess(len(reduced(self.rng.normal(size=(5000, 5)))), 80)
        z = self.rng.normal(size=(79, 5))
        self.assertIs(reduced(z), z)


class OthersGoOn(unittest.TestCase):
    """The interpreter's lock was kept for half a second; as a share of the whole, whatever the machine."""

    def test_while_eigenvalues_are_found_and_counted(self):
        rng = np.random.default_rng(1)
        few, many = rng.normal(size=(120_000, 40)), rng.normal(size=(6000, 350))
        for name, work in (
            ("eigenvalues", lambda: [find_eigenvalues(few, True) for _ in range(3)]),
            ("rank", lambda: [counted_rank(many, True, 100.0) for _ in range(3)]),
        ):
            with self.subTest(name):
                self.assertLess(min(longest_wait(work) for _ in range(3)), 0.2)


if __name__ == "__main__":
    unittest.main()
