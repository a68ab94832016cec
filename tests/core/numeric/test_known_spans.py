"""The span of a large array is found once, and forgotten with it."""

import gc
import unittest
from unittest import mock

import numpy as np

from scutcher.core.arrays import read_only, value_span
from scutcher.core.numeric import known_spans
from scutcher.core.numeric.known_spans import known_span


class Spans(unittest.TestCase):
    def setUp(self):
        patch = mock.patch.object(known_spans, "LARGE", 100)
        patch.start()
        self.addCleanup(patch.stop)
        values = np.random.default_rng(1).normal(size=(40, 9))
        values[3, 2] = values[:, 5] = np.nan
        self.values = read_only(values)

    def test_found_once_and_right(self):
        first = known_span(self.values)
        for found, wanted in zip(first, value_span(self.values), strict=True):
            np.testing.assert_array_equal(found, wanted)
        with mock.patch.object(known_spans, "value_span", side_effect=AssertionError):
            self.assertIs(known_span(self.values), first)

    def test_forgotten_with_the_array_and_never_another_s(self):
        known_span(self.values)
        key = id(self.values)
        self.assertIn(key, known_spans._known)
        del self.values
        gc.collect()
        self.assertNotIn(key, known_spans._known)

    def test_what_can_change_is_looked_at_each_time(self):
        values = np.zeros((40, 9))
        known_span(values)
        values[7, 3] = 2.0
        self.assertEqual(known_span(values)[1][3], 2.0)


if __name__ == "__main__":
    unittest.main()
