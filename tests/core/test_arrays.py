"""The small helpers on arrays against NumPy's own, slower ones."""

import unittest

import numpy as np

from scutcher.core.arrays import distinct, value_span


class Span(unittest.TestCase):
    def test_against_one_variable_after_the_other(self):
        """Of tall narrow tables several rows are taken at a time; whatever is left over counts too."""
        rng = np.random.default_rng(1)
        for n, p in ((3, 4), (64, 50), (20_003, 50), (1009, 333), (5003, 400), (41, 501), (1_000_007, 1)):
            values = rng.normal(size=(n, p))
            values[rng.integers(n, size=n // 3), rng.integers(p, size=n // 3)] = np.nan
            values[-1], values[:, p // 2] = 9.0 * rng.normal(size=p), values[:, p // 2] + 5.0
            if p > 3:
                values[:, 3] = np.nan
            for seen in (values, values[:, ::-1], np.asfortranarray(values)):
                low, high = value_span(seen)
                known = [column[~np.isnan(column)] for column in seen.T]
                np.testing.assert_array_equal(low, [k.min() if len(k) else np.nan for k in known])
                np.testing.assert_array_equal(high, [k.max() if len(k) else np.nan for k in known])
        self.assertEqual(value_span(np.empty((5, 0)))[0].shape, (0,))


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
