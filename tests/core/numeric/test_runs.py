"""Sums of runs of rows, against NumPy's own, and whether other threads go on meanwhile."""

import unittest
from unittest import mock

import numpy as np

from scutcher.core.numeric import runs
from scutcher.core.numeric.runs import LONG, means_of_tiles, sums_of_runs
from tests.core.waiting import longest_wait


class Runs(unittest.TestCase):
    def test_the_same_as_numpy(self):
        rng = np.random.default_rng(2)
        self.enterContext(mock.patch.object(runs, "LITTLE", 0))
        for most in (1, 2, 5, LONG, 3 * LONG):
            sizes = rng.integers(1, most + 1, 40)
            starts = np.append(0, np.cumsum(sizes)[:-1])
            values = rng.normal(size=(int(sizes.sum()), 7))
            wanted = np.add.reduceat(values, starts, axis=0)
            np.testing.assert_allclose(sums_of_runs(values, starts), wanted, rtol=1e-13, atol=1e-13)

    def test_one_run_and_one_row(self):
        self.enterContext(mock.patch.object(runs, "LITTLE", 0))
        values = np.arange(12.0).reshape(4, 3)
        np.testing.assert_array_equal(sums_of_runs(values, np.array([0])), [[18.0, 22.0, 26.0]])
        np.testing.assert_array_equal(sums_of_runs(values[:1], np.array([0])), values[:1])

    def test_others_go_on(self):
        values, starts = np.random.default_rng(1).normal(size=(90_000, 40)), np.arange(0, 90_000, 3)

        def sum_up():
            for _ in range(4):
                sums_of_runs(values, starts)

        self.assertTrue(any(longest_wait(sum_up) < 0.1 for _ in range(12)))  # a busy machine waits, too


class Tiles(unittest.TestCase):
    def test_against_a_loop_with_gaps(self):
        rng = np.random.default_rng(6)
        values = rng.normal(size=(11, 9))
        values[rng.random(values.shape) < 0.3] = np.nan
        values[:4, 2:5] = np.nan  # a tile without a value
        columns = np.array([0, 2, 3, 4, 7, 8])
        found = means_of_tiles(values, columns, 4, 3)
        self.assertEqual(found.shape, (3, 2))
        for row in range(3):
            for place in range(2):
                tile = values[4 * row : 4 * row + 4][:, columns[3 * place : 3 * place + 3]]
                known = tile[np.isfinite(tile)]
                self.assertAlmostEqual(found[row, place], sum(known) / len(known))
        every = np.arange(9)
        np.testing.assert_array_equal(means_of_tiles(values, every, 1, 1), values)
        self.assertTrue(np.isnan(means_of_tiles(values, np.array([2, 3]), 4, 2)[0, 0]))
        self.assertEqual(means_of_tiles(values, every[:0], 4, 3).shape, (3, 0))


if __name__ == "__main__":
    unittest.main()
