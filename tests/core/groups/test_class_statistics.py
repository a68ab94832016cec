"""Means and deviations of classes against one class after the other."""

import unittest
from unittest import mock

import numpy as np

from scutcher.core.groups import class_statistics as module
from scutcher.core.groups.class_statistics import class_statistics
from scutcher.core.numeric import threads


class AgainstOneByOne(unittest.TestCase):
    def setUp(self):
        rng = np.random.default_rng(3)
        self.values = 1e6 + rng.normal(size=(60, 7))
        self.codes = rng.choice([-1, 2, 5, 1003], 60)
        self.codes[self.codes == 5] = 2
        self.codes[11] = 5  # a single sample

    def compare(self):
        present, means, deviations = class_statistics(self.values, self.codes)
        self.assertEqual(present.tolist(), sorted(set(self.codes.tolist())))
        for code, mean, deviation in zip(present, means, deviations, strict=True):
            own = self.values[self.codes == code]
            for column in range(self.values.shape[1]):
                there = own[~np.isnan(own[:, column]), column]
                if not len(there):
                    self.assertTrue(np.isnan(mean[column]))
                    continue
                self.assertAlmostEqual(mean[column], there.mean(), 8)
                wanted = there.std(ddof=1) if len(there) > 1 else 0.0
                self.assertAlmostEqual(deviation[column], wanted, 8)

    def test_complete_and_with_gaps(self):
        self.compare()
        self.values[3, 2] = self.values[40, :5] = np.nan
        self.values[self.codes == 5, 4] = np.nan
        self.compare()

    def test_in_many_parts_by_two_threads(self):
        with (
            mock.patch.object(module, "TILE", 15),
            mock.patch.object(threads, "PART_CELLS", 20),
            mock.patch.object(threads, "LEAST_ROWS", 1),
            mock.patch.object(module, "in_parts", lambda *a, **k: threads.in_parts(*a, **k, much=0)),
        ):
            self.compare()

    def test_of_nobody_there_is_nothing(self):
        present, means, deviations = class_statistics(np.empty((0, 4)), np.empty(0, dtype=int))
        self.assertEqual((len(present), means.shape, deviations.shape), (0, (0, 4), (0, 4)))


if __name__ == "__main__":
    unittest.main()
