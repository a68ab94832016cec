"""Resampling against the library's one-dimensional interpolation."""

import unittest

import numpy as np

from scutcher.core.data.resampling import common_axis, resampled
from scutcher.core.errors import TableError


class Resampling(unittest.TestCase):
    def test_against_one_line_at_a_time(self):
        rng = np.random.default_rng(0)
        x = np.sort(rng.uniform(0, 10, 30))
        ys, onto = rng.normal(size=(4, 30)), np.linspace(x[0], x[-1], 17)
        expected = [np.interp(onto, x, y) for y in ys]
        np.testing.assert_allclose(resampled(ys, x, onto), expected, atol=1e-12)
        np.testing.assert_allclose(
            resampled(ys[:, ::-1], x[::-1], onto[::-1]), np.array(expected)[:, ::-1], atol=1e-12
        )

    def test_a_gap_spreads_to_its_neighbours_only(self):
        found = resampled(np.array([[1.0, np.nan, 3.0, 4.0]]), np.arange(4.0), np.array([0.0, 0.5, 2.0, 2.5]))
        self.assertEqual(np.isnan(found[0]).tolist(), [False, True, False, False])

    def test_common_axis_is_the_coarsest_within_all(self):
        found = common_axis(
            [np.arange(0.0, 10.0, 0.5), np.arange(1.0, 12.0, 2.0), np.arange(20.0, -1.0, -1.0)]
        )
        np.testing.assert_array_equal(found, [1, 3, 5, 7, 9])
        with self.assertRaises(TableError):
            common_axis([np.arange(5.0), np.arange(10.0, 15.0)])
