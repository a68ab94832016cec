"""Products of symmetric matrices: right in every layout of memory, and other threads go on meanwhile."""

import threading
import time
import unittest

import numpy as np

from scutcher.core.numeric import blas
from scutcher.core.numeric.blas import add_gram, mirror, positive_eigenvalues, symmetric_times


class Grams(unittest.TestCase):
    def setUp(self):
        self.rng = np.random.default_rng(3)

    def check(self, rows):
        """In either precision, in the same layout."""
        for kind, digits in ((np.float64, 1e-12), (np.float32, 1e-5)):
            rows = rows.astype(kind)
            start = self.rng.normal(size=(rows.shape[1], rows.shape[1])).astype(kind)
            product, kept = start.copy(), rows.copy()
            add_gram(rows, product, -2.0)
            wanted = start - 2.0 * np.array([[a @ b for b in rows.T] for a in rows.T])
            upper = np.triu_indices(len(product))
            np.testing.assert_allclose(product[upper], wanted[upper], rtol=digits, atol=digits)
            below = np.tril_indices(len(product), -1)
            np.testing.assert_array_equal(product[below], start[below])
            np.testing.assert_array_equal(rows, kept)

    def test_rows_in_one_piece(self):
        self.check(self.rng.normal(size=(7, 5)))
        self.check(self.rng.normal(size=(3, 9)))
        self.check(self.rng.normal(size=(1, 4)))

    def test_rows_of_a_wider_matrix(self):
        wide = self.rng.normal(size=(8, 12))
        self.check(wide[2:7, :5])
        self.check(wide[:, 3:])

    def test_columns_in_one_piece(self):
        wide = self.rng.normal(size=(6, 11))
        self.check(wide.T)
        self.check(wide.T[2:7])
        self.check(np.asfortranarray(wide))

    def test_another_layout_is_refused(self):
        with self.assertRaises(AssertionError):
            add_gram(self.rng.normal(size=(8, 12))[::2, ::2], np.zeros((6, 6)))
        with self.assertRaises(AssertionError):
            add_gram(np.ones((2, 3)), np.zeros((3, 6))[:, ::2])
        with self.assertRaises(AssertionError):
            add_gram(np.ones((2, 3), dtype=np.float32), np.zeros((3, 3)))

    def test_the_upper_half_is_mirrored_over_many_tiles(self):
        tile, blas.TILE = blas.TILE, 4
        self.addCleanup(setattr, blas, "TILE", tile)
        for size in (1, 4, 11):
            product = self.rng.normal(size=(size, size))
            wanted = np.triu(product) + np.triu(product, 1).T
            mirror(product)
            np.testing.assert_array_equal(product, wanted)


class Vectors(unittest.TestCase):
    def test_only_the_upper_half_counts(self):
        rng = np.random.default_rng(4)
        matrix, vector = rng.normal(size=(9, 9)), rng.normal(size=9)
        whole = np.triu(matrix) + np.triu(matrix, 1).T
        np.testing.assert_allclose(symmetric_times(matrix, vector), whole @ vector, rtol=1e-12)
        every_other = rng.normal(size=18)[::2]
        np.testing.assert_allclose(symmetric_times(matrix, every_other), whole @ every_other, rtol=1e-12)
        single = symmetric_times(matrix.astype(np.float32), vector)
        self.assertEqual(single.dtype, np.float32)
        np.testing.assert_allclose(single, whole @ vector, atol=1e-5)

    def test_gaps_stay_gaps(self):
        self.assertTrue(np.isnan(symmetric_times(np.full((2, 2), np.nan), np.ones(2))).all())


class Inertia(unittest.TestCase):
    def test_signs_of_eigenvalues_are_counted(self):
        rng = np.random.default_rng(6)
        for size in (1, 2, 9, 150):
            matrix = rng.normal(size=(size, size))
            matrix = matrix + matrix.T
            wanted = int((np.linalg.eigvalsh(matrix) > 0.0).sum())
            matrix[np.tril_indices(size, -1)] = 99.0  # the lower half is not read
            with self.subTest(size):
                self.assertEqual(positive_eigenvalues(matrix), wanted)

    def test_blocks_of_two(self):
        matrix = np.kron(np.eye(4), [[0.0, 1.0], [1.0, 0.0]])  # no pivot on the diagonal at all
        self.assertEqual(positive_eigenvalues(matrix), 4)

    def test_zeros_are_not_positive(self):
        self.assertEqual(positive_eigenvalues(np.zeros((3, 3))), 0)
        self.assertEqual(positive_eigenvalues(np.diag([2.0, 0.0, -1.0])), 1)


class Threads(unittest.TestCase):
    def test_another_thread_runs_during_a_product(self):
        rows, product = np.ones((3000, 1200)), np.zeros((1200, 1200))
        add_gram(rows[:2], product)  # the library is loaded before the clock runs
        done, turns = threading.Event(), 0

        def work():
            for _ in range(5):
                add_gram(rows, product)
            done.set()

        worker = threading.Thread(target=work)
        worker.start()
        while not done.is_set():
            turns += 1
            time.sleep(0.001)
        worker.join()
        self.assertGreater(turns, 20)  # one or two a product if it held everybody up


if __name__ == "__main__":
    unittest.main()
