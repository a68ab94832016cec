"""The small helpers on arrays against NumPy's own, slower ones."""

import unittest

import numpy as np

from scutcher.core.arrays import distinct


class Distinct(unittest.TestCase):
    def test_against_unique(self):
        rng = np.random.default_rng(2)
        for low, high, count in ((0, 1, 5), (-1, 4, 200), (-3, 2, 1), (1000, 1020, 60), (5, 5000, 30)):
            with self.subTest(low=low, high=high):
                codes = rng.integers(low, high, count)
                np.testing.assert_array_equal(distinct(codes), np.unique(codes))

    def test_of_none(self):
        self.assertEqual(len(distinct(np.empty(0, dtype=np.intp))), 0)


if __name__ == "__main__":
    unittest.main()
