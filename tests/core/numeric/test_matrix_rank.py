"""The rank that is counted is the rank of all singular values."""

import unittest
from unittest import mock

import numpy as np

from scutcher.core.models.pca import decomposition
from scutcher.core.models.pca.decomposition import find_eigenvalues
from scutcher.core.models.pca.engines.choice import decompose
from scutcher.core.numeric.matrix_rank import counted_rank, rank_threshold, structural_rank
from tests.core.making import random_spectra


def with_singular_values(n, p, values, seed=0):
    """A matrix with given singular values, columns as they come."""
    rng = np.random.default_rng(seed)
    left = np.linalg.qr(rng.normal(size=(n, len(values))))[0]
    right = np.linalg.qr(rng.normal(size=(p, len(values))))[0]
    return (left * values) @ right.T


class Counted(unittest.TestCase):
    def check(self, z, centred, wanted):
        largest = float(np.linalg.norm(z, 2))
        self.assertEqual(counted_rank(z, centred, largest), wanted)
        self.assertEqual(len(find_eigenvalues(z, centred)), wanted)

    def test_tall_wide_and_square(self):
        for n, p in ((60, 23), (23, 60), (31, 31)):
            with self.subTest(f"{n} × {p}"):
                x = random_spectra(n, p)
                self.check(x, False, min(n, p))
                self.check(x - x.mean(axis=0), True, min(n - 1, p))

    def test_duplicates_constants_and_closure(self):
        x = random_spectra(50, 20)
        centred = x - x.mean(axis=0)
        self.check(np.hstack([centred, centred[:, :7]]), True, 20)
        self.check(np.hstack([centred, np.zeros((50, 4))]), True, 20)
        self.check(np.vstack([x, x]), False, 20)
        closed = x / x.sum(axis=1, keepdims=True)  # rows that add up to one
        self.check(closed - closed.mean(axis=0), True, 19)

    def test_singular_values_near_the_threshold(self):
        edge = rank_threshold(80, 40, 1.0)
        for share, counts in ((30.0, 25), (1 / 30.0, 20)):
            values = np.r_[np.geomspace(1.0, 1e-9, 20), np.full(5, share * edge)]
            with self.subTest(share):
                self.assertEqual(counted_rank(with_singular_values(80, 40, values), False, 1.0), counts)

    def test_a_decomposition_counts_where_it_is_large_and_only_when_asked(self):
        x = random_spectra(60, 45)
        z = np.hstack([x, x[:, :10]])
        z = z - z.mean(axis=0)
        wanted = decompose(z, True, 3, "exact").rank
        with (
            mock.patch.object(decomposition, "FEW", 10),
            mock.patch.object(decomposition, "find_eigenvalues") as all_of_them,
            mock.patch.object(decomposition, "counted_rank", side_effect=counted_rank) as counted,
        ):
            found = decompose(z, True, 3, "gram")
            counted.assert_not_called()
            self.assertEqual((found.rank, found.rank), (wanted, wanted))
        counted.assert_called_once()
        all_of_them.assert_not_called()

    def test_structural_rank(self):
        cases = {(5, 9, True): 4, (5, 9, False): 5, (9, 5, True): 5, (5, 5, True): 4, (5, 5, False): 5}
        for (n, p, centred), wanted in cases.items():
            self.assertEqual(structural_rank(n, p, centred), wanted)


if __name__ == "__main__":
    unittest.main()
