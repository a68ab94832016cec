"""Eigenpairs against NumPy's dense ones; other threads run meanwhile."""

import threading
import time
import unittest

import numpy as np

from scutcher.core.numeric.lapack import largest_eigenpairs


def gram(q, rank, seed=1):
    rows = np.random.default_rng(seed).normal(size=(rank, q)) * np.linspace(5.0, 1.0, rank)[:, np.newaxis]
    return rows.T @ rows


class Eigenpairs(unittest.TestCase):
    def test_as_of_the_dense_solution(self):
        for q, count in ((1, 1), (2, 1), (2, 2), (7, 3), (160, 12), (300, 300)):
            matrix = gram(q, q + 3)
            kept = matrix.copy()
            values, vectors = largest_eigenpairs(matrix, count)
            with self.subTest((q, count)):
                np.testing.assert_array_equal(matrix, kept)
                wanted = np.linalg.eigvalsh(matrix)[::-1][:count]
                np.testing.assert_allclose(values, wanted, rtol=1e-10, atol=1e-10 * wanted[0])
                np.testing.assert_allclose(vectors.T @ vectors, np.eye(count), atol=1e-11)
                np.testing.assert_allclose(
                    matrix @ vectors, vectors * values, atol=1e-10 * float(np.abs(matrix).max()) * q
                )

    def test_values_alone_and_of_a_matrix_in_another_order(self):
        matrix = np.asfortranarray(gram(40, 9))
        values, none = largest_eigenpairs(matrix, 12, vectors=False)
        self.assertEqual(none.shape, (40, 0))
        np.testing.assert_allclose(values, np.linalg.eigvalsh(matrix)[::-1][:12], atol=1e-9)
        self.assertLess(values[9:].max(), 1e-9)
        view = gram(80, 90)[::2, ::2]
        np.testing.assert_allclose(largest_eigenpairs(view, 5)[0], np.linalg.eigvalsh(view)[::-1][:5])

    def test_equal_eigenvalues(self):
        values, vectors = largest_eigenpairs(np.eye(30), 4)
        np.testing.assert_allclose(values, 1.0)
        np.testing.assert_allclose(vectors.T @ vectors, np.eye(4), atol=1e-12)


class OthersRun(unittest.TestCase):
    """Held by a wrapper, the interpreter's lock would let a window stand still."""

    def test_while_eigenvectors_are_computed(self):
        matrix = gram(900, 920)
        thread = threading.Thread(target=lambda: largest_eigenpairs(matrix, 30))
        start = last = time.perf_counter()
        longest = 0.0
        thread.start()
        while thread.is_alive():
            time.sleep(0.001)
            now = time.perf_counter()
            longest, last = max(longest, now - last), now
        self.assertLess(longest, 0.5 * (last - start))


if __name__ == "__main__":
    unittest.main()
