"""Rows that are put together on two threads are those that were asked for."""

import unittest
from unittest import mock

import numpy as np

from scutcher.core.numeric import threads
from scutcher.core.numeric.gathering import rows_of


class RowsOf(unittest.TestCase):
    def setUp(self):
        self.rng = np.random.default_rng(3)
        self.values = self.rng.normal(size=(900, 7))
        self.values[5, 2] = np.nan

    def check(self, values, rows):
        found = rows_of(values, np.asarray(rows, dtype=np.intp))
        np.testing.assert_array_equal(found, values[rows])
        self.assertEqual((found.dtype, found.shape), (values.dtype, values[rows].shape))
        self.assertFalse(np.shares_memory(found, values))

    def test_any_rows_of_any_array(self):
        for much in (0, 10**9):  # with two threads, and without
            with self.subTest(much), mock.patch.object(threads.in_parts, "__defaults__", (None, much, None)):
                self.check(self.values, np.delete(np.arange(900), [7, 8, 500]))
                self.check(self.values, self.rng.integers(900, size=2000))
                self.check(self.values, [0])
                self.check(self.values, [])
                self.check(self.values, [-1, 3])
                self.check(self.values.astype(np.float32), [4, 5, 4])
                self.check(self.values[:, ::2], [4, 5, 4])
                self.check(np.asfortranarray(self.values), [4, 5, 4])

    def test_one_that_is_not_there(self):
        for row in (900, -901):
            with self.subTest(row), self.assertRaises(IndexError):
                rows_of(self.values, np.array([0, row]))


if __name__ == "__main__":
    unittest.main()
