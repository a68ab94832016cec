"""Means of groups of rows, against a loop."""

import unittest

import numpy as np

from scutcher.core.numeric.group_means import means_by_group


class Means(unittest.TestCase):
    def test_against_a_loop_and_a_group_without_rows(self):
        rng = np.random.default_rng(8)
        values, codes = rng.normal(size=(40, 3)), rng.choice([0, 1, 3, 4], 40)
        found = means_by_group(values, codes)
        self.assertEqual(found.shape, (5, 3))
        for code in (0, 1, 3, 4):
            rows = [row for row in range(40) if codes[row] == code]
            np.testing.assert_allclose(found[code], sum(values[row] for row in rows) / len(rows))
        self.assertTrue(np.isnan(found[2]).all())
        self.assertEqual(means_by_group(values[:0], codes[:0]).shape, (0, 3))


if __name__ == "__main__":
    unittest.main()
